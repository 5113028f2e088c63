/** The extracts of a search result: plain text with the matches marked, as safe HTML. */
import { escapeHtml, SafeHtml } from '../content/html/safe-html.ts'

/** Markers around a match. They are private-use characters, which are removed from every extract. */
export const HEADLINE_START = '\uE0F0'
export const HEADLINE_STOP = '\uE0F1'

const ENTITIES: Readonly<Record<string, string>> = {
  lt: '<',
  gt: '>',
  quot: '"',
  '#39': "'",
  nbsp: ' ',
  amp: '&',
}

/** Turns the result of PostgreSQL's ts_headline, applied to HTML without its tags, into safe HTML. */
export function extractHtml(text: string): SafeHtml {
  const plain = text
    .replace(/\s+/g, ' ')
    .trim()
    .replace(/&(lt|gt|quot|#39|nbsp|amp);/g, (_, name: string) => ENTITIES[name] ?? '')
  const html = escapeHtml(plain)
  // Only complete pairs become <mark>: a text that contains a marker itself cannot open an element.
  return new SafeHtml(
    html.replace(/\uE0F0([^\uE0F0\uE0F1]*)\uE0F1/g, '<mark>$1</mark>').replace(/[\uE0F0\uE0F1]/g, ''),
  )
}
