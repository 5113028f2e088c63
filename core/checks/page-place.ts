/** Finds the line of a template that prints a part of a page. */
import { templatePath } from '../shapes/documents.ts'
import type { Facts } from './facts.ts'
import type { Finding } from './finding.ts'
import { lineAt, routeOf } from './rule.ts'

/** Returns the first match in the templates of a route's page; null without one. */
export function placeInTemplates(facts: Facts, route: string | null, wanted: RegExp): Finding['place'] {
  const template = routeOf(facts, route ?? '')?.route.template
  return template === undefined ? null : placeIn(facts, facts.definition.templates.closure(template), wanted)
}

/** Returns the first match in templates; null without one. */
export function placeIn(facts: Facts, templates: Iterable<string>, wanted: RegExp): Finding['place'] {
  for (const name of templates) {
    const document = templatePath(name)
    const text = facts.documents.get(document) ?? ''
    const at = text.search(wanted)
    if (at !== -1) return { document, line: lineAt(text, at) }
  }
  return null
}

/** Returns an address whose page is made with a template; null without one. */
export async function pageOfTemplate(facts: Facts, document: string): Promise<string | null> {
  const { routes, templates } = facts.definition
  const { known } = await facts.addresses()
  const names = new Set(
    routes.flatMap(({ route: { name, template } }) =>
      template !== undefined && templates.closure(template).some((one) => templatePath(one) === document)
        ? [name]
        : [],
    ),
  )
  return known.find((one) => names.has(one.route))?.path ?? null
}

/** Returns a pattern that matches a text as it is. */
export const literally = (text: string): RegExp => new RegExp(text.replace(/[.*+?^${}()|[\]\\]/g, '\\$&'))
