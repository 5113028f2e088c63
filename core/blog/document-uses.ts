/** Which documents of a definition refer to which others. */
import { assetPath, queryPath, templatePath } from '../shapes/documents.ts'
import { queriesOf } from '../shapes/route-data.ts'
import type { Definition } from './definition.ts'

/** Returns, for each query, template and asset, the documents that refer to it. */
export function documentUses({
  routes,
  settings,
  queries,
  templates,
  assets,
}: Pick<Definition, 'routes' | 'settings' | 'queries' | 'templates' | 'assets'>): Map<string, string[]> {
  const uses = new Map<string, Set<string>>()
  const add = (used: string, by: string) => uses.set(used, (uses.get(used) ?? new Set()).add(by))
  for (const name of queries.keys()) uses.set(queryPath(name), new Set())
  for (const name of assets.keys()) uses.set(assetPath(name), new Set())
  for (const { route } of routes) {
    if (route.template !== undefined) add(templatePath(route.template), 'routes.yaml')
    for (const query of queriesOf(route)) add(queryPath(query), 'routes.yaml')
  }
  if (settings.error !== undefined) add(templatePath(settings.error), 'blog.yaml')
  const notFound = settings['not-found']
  if (notFound) {
    add(templatePath(notFound.template), 'blog.yaml')
    for (const query of queriesOf(notFound)) add(queryPath(query), 'blog.yaml')
  }
  for (const [name, mentions] of templates.mentions()) {
    const own = templatePath(name)
    if (!uses.has(own)) uses.set(own, new Set())
    for (const one of mentions.templates) if (one.name !== null) add(templatePath(one.name), own)
    for (const one of mentions.assets) add(assetPath(one.name), own)
  }
  return new Map([...uses].map(([document, by]) => [document, [...by].sort()]))
}
