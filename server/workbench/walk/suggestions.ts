/** Suggests addresses to walk first. */
import type { CompiledRoute } from '../../../core/routing/addresses/compiled-route.ts'
import { queriesOf } from '../../../core/shapes/route-data.ts'
import type { DatabasePort, PoolPort, SitePort } from '../../publish/ports.ts'
import { buildAddress } from '../../reader/addresses/build-address.ts'
import { addressesOf } from '../../reader/addresses/real-addresses.ts'
import type { Suggestion } from '../../../contract/walk.ts'

/** Returns the first route whose listing has pages and needs no parameters. */
function pagedRoute({ site: { definition, queries } }: SitePort): {
  paged?: CompiledRoute
  parameter: string
} {
  for (const compiled of definition.routes) {
    if (compiled.pattern.names.length > 0) continue
    for (const name of queriesOf(compiled.route)) {
      const meaning = queries.get(name)?.meaning
      const take = meaning?.take
      if (take?.kind === 'pages' && take.by === 'number' && meaning?.parameters.length === 0)
        return { paged: compiled, parameter: take.parameter }
    }
  }
  return { parameter: 'page' }
}

/** Returns the address to walk if the workbench is opened without one: the second page of a listing shows most. */
export function firstAddress(blog: SitePort): string {
  const { paged, parameter } = pagedRoute(blog)
  const built = paged && buildAddress(blog.site, paged.route.name, {})
  return built?.ok ? `${built.path}?${parameter}=2` : '/'
}

/** Suggests what a newcomer may try first, as far as this blog has such addresses. */
export async function suggestions(blog: PoolPort & DatabasePort & SitePort): Promise<Suggestion[]> {
  const found: Suggestion[] = []
  const { definition } = blog.site
  const { paged, parameter } = pagedRoute(blog)
  const built = paged && buildAddress(blog.site, paged.route.name, {})
  const listing = built?.ok ? built.path : undefined
  if (listing !== undefined) {
    const partial = [...definition.templates.mentions()].find(
      ([name, { fragments }]) => name.startsWith('partials/') && fragments.some((one) => one.vary.length > 0),
    )?.[0]
    if (partial !== undefined)
      found.push({
        label: 'Change what a card shows',
        path: listing,
        document: `templates/${partial}.liquid`,
      })
  }
  for (const compiled of definition.routes) {
    if (compiled.method !== 'GET' || compiled.route.redirect) continue
    const [draft] =
      (await addressesOf(blog, blog.site, compiled, { size: 1, hidden: 'drafts' }))?.addresses ?? []
    if (!draft) continue
    found.push({ label: 'The address of a draft', path: draft.path, document: null })
    break
  }
  if (listing !== undefined)
    found.push({ label: 'Page 999', path: `${listing}?${parameter}=999`, document: null })
  return found
}
