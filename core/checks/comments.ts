/** What the rules on comments share: their claim, and fixes of templates with a comment form. */
import type { CommentProbe } from './comment-facts.ts'
import type { Facts } from './facts.ts'
import type { Finding, Fix } from './finding.ts'
import { lineOf, saveFix, type Claim } from './rule.ts'

/**
 * Says what is true of the pages that were requested.
 * @param sentence about “any requested page”
 */
export const pagesClaim = (sentence: string, probes: readonly CommentProbe[]): Claim => ({
  sentence: `${sentence}, after comments in every state were added to one post`,
  tested: probes.reduce((sum, one) => sum + one.pages.length, 0),
  things: ['response', 'responses'],
})

/** Says what is true of the comment form of each action, on the one post on which it was tried. */
export const formsClaim = (sentence: string, probes: readonly CommentProbe[]): Claim => ({
  sentence: `${sentence}, tried on one post`,
  tested: probes.length,
  things: ['comment form', 'comment forms'],
})

export interface Template {
  document: string
  text: string
  /** Of the form with a text area. */
  line: number | null
}

/** Returns the place of the comment form in its template. */
export function placeOfForm(facts: Facts, then: string): Finding['place'] {
  const template = formTemplate(facts, then)
  return template ? { document: template.document, line: template.line } : null
}

/** A form with a text area. */
const COMMENT_FORM = /<form\b(?:(?!<\/form)[\s\S])*?<textarea\b/i

/** Returns the template with the comment form; the one of the page if no template has one. */
export function formTemplate(facts: Facts, then: string): Template | undefined {
  for (const [document, text] of facts.documents) {
    const form = document.startsWith('templates/') ? COMMENT_FORM.exec(text) : null
    if (form) return { document, text, line: lineOf(text, form[0]) }
  }
  const route = facts.definition.routes.find((one) => one.route.name === then)?.route
  const document = `templates/${route?.template ?? ''}.liquid`
  const text = facts.documents.get(document)
  return text === undefined ? undefined : { document, text, line: null }
}

/** Returns a fix that changes the tag of the comment form. */
export function changeFormTag(
  { document, text }: Template,
  label: string,
  after: string,
  change: (tag: string) => string,
): Fix[] {
  const form = COMMENT_FORM.exec(text)
  const end = form === null ? -1 : tagEnd(form[0])
  if (form === null || end === -1) return []
  const tag = form[0].slice(0, end)
  const changed = change(tag)
  const rest = text.slice(form.index + end)
  return changed === tag ? [] : saveFix(document, text.slice(0, form.index) + changed + rest, label, after)
}

/** Returns where the first tag ends. `>` within quotes and within `{{ }}` does not end it. */
function tagEnd(text: string): number {
  const tag = /^<(?:\{\{[\s\S]*?\}\}|\{%[\s\S]*?%\}|"[^"]*"|'[^']*'|[^>"'])*>/.exec(text)
  return tag === null ? -1 : tag[0].length
}

/** Sets an attribute of a tag. */
export function withAttribute(tag: string, name: string, value: string): string {
  const known = new RegExp(`(\\s${name}\\s*=\\s*)("[^"]*"|'[^']*'|\\{\\{[\\s\\S]*?\\}\\}\\S*|[^\\s>]+)`, 'i')
  if (known.test(tag)) return tag.replace(known, (_, start: string) => `${start}"${value}"`)
  return tag.replace(/\s*>$/, ` ${name}="${value}">`)
}
