/** Plain text of HTML: excerpts, word counts and reading times. */
import sanitize from 'sanitize-html'

/** Reading speed on a screen, in words per minute: common practice. */
const WORDS_PER_MINUTE = 220

const ENTITIES: Readonly<Record<string, string>> = {
  '&amp;': '&',
  '&lt;': '<',
  '&gt;': '>',
  '&quot;': '"',
  '&#39;': "'",
  '&nbsp;': ' ',
}

/** Returns the text of safe HTML without tags, code blocks, tables and figures, with white space collapsed. */
export function plainText(html: string): string {
  const spaced = html
    .replace(/<(pre|table|figure)\b[\s\S]*?<\/\1>/g, ' ')
    .replace(/<\/(p|h[1-6]|li|blockquote|dd|dt)>|<br ?\/?>/g, ' ')
  return sanitize(spaced, { allowedTags: [], allowedAttributes: {} })
    .replace(/&(?:amp|lt|gt|quot|#39|nbsp);/g, (entity) => ENTITIES[entity] ?? entity)
    .replace(/\s+/g, ' ')
    .trim()
}

const SURROGATE = /[\uD800-\uDFFF]/

/**
 * Shortens a text to at most `limit` code points plus “…”, at a word boundary. A first word that is longer than the
 * limit is cut.
 */
export function shorten(text: string, limit: number): string {
  // A code point has at most two code units, so the rest cannot matter.
  const most = 2 * (limit + 1)
  const start = text.length > most ? text.slice(0, most) : text
  // Without surrogates, code units are code points.
  const characters = SURROGATE.test(start) ? [...start] : start
  if (characters.length <= limit) return text
  const first = (count: number) =>
    typeof characters === 'string' ? characters.slice(0, count) : characters.slice(0, count).join('')
  const cut = first(limit + 1)
  const atWord = cut.replace(/\s+\S*$/u, '')
  const kept = atWord === cut || atWord === '' ? first(limit) : atWord
  return `${kept.replace(/[\s,;:–—-]+$/u, '')}…`
}

/** Counts the words of a plain text, by Unicode letters and digits. */
export const countWords = (text: string) => text.match(/[\p{L}\p{N}][\p{L}\p{N}\p{M}’'-]*/gu)?.length ?? 0

/** Returns the reading time in whole minutes, at least 1. */
export const readingMinutes = (words: number) => Math.max(1, Math.round(words / WORDS_PER_MINUTE))

/** The maximum length of an automatic excerpt, in characters. Listings may shorten it further. */
const AUTOMATIC_EXCERPT = 320

/** Returns the text of safe HTML without its headings, which are not sentences; with them if there is nothing else. */
function openingText(html: string): string {
  const text = plainText(html.replace(/<(h[1-6])\b[\s\S]*?<\/\1>/g, ' '))
  return text === '' ? plainText(html) : text
}

/** What listings show of a text. */
export interface TextSummary {
  /** The start of the text. */
  excerpt: string
  wordCount: number
}

/** Returns what listings show of safe HTML. */
export const summaryOf = (html: string): TextSummary => ({
  excerpt: shorten(openingText(html), AUTOMATIC_EXCERPT),
  wordCount: countWords(plainText(html)),
})
