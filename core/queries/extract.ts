/** Extracts that a search shows: plain text with marks around what was found, made safe HTML. */
import { escapeHtml, SafeHtml } from '../content/html/safe-html.ts'

/** Marks that no text can hold: control characters of the private use area are left out of texts that are shown. */
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

/** @param text as PostgreSQL's ts_headline gives it for HTML without its tags */
export function extractHtml(text: string): SafeHtml {
  const plain = text
    .replace(/\s+/g, ' ')
    .trim()
    .replace(/&(lt|gt|quot|#39|nbsp|amp);/g, (_, name: string) => ENTITIES[name] ?? '')
  const html = escapeHtml(plain)
  // Only whole pairs become marks: a text that holds one of the signs itself cannot open an element.
  return new SafeHtml(
    html.replace(/\uE0F0([^\uE0F0\uE0F1]*)\uE0F1/g, '<mark>$1</mark>').replace(/[\uE0F0\uE0F1]/g, ''),
  )
}
