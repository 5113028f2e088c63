/** Finds the line of a template that prints a part of a page. */
import { templatePath } from '../shapes/documents.ts'
import type { Facts } from './facts.ts'
import type { Finding } from './finding.ts'
import { lineAt, routeOf } from './rule.ts'

/** Returns the first match in the templates of a route's page; null without one. */
export function placeInTemplates(facts: Facts, route: string | null, wanted: RegExp): Finding['place'] {
  const template = routeOf(facts, route ?? '')?.route.template
  if (template === undefined) return null
  for (const name of facts.definition.templates.closure(template)) {
    const document = templatePath(name)
    const text = facts.documents.get(document) ?? ''
    const at = text.search(wanted)
    if (at !== -1) return { document, line: lineAt(text, at) }
  }
  return null
}

/** Returns a pattern that matches a text as it is. */
export const literally = (text: string): RegExp => new RegExp(text.replace(/[.*+?^${}()|[\]\\]/g, '\\$&'))
