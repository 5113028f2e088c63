/** Plain text of HTML, its opening, and how long it takes to read. */
import sanitize from 'sanitize-html'

/** Words a minute that a reader of English reads on a screen: common practice. */
const WORDS_PER_MINUTE = 220

const ENTITIES: Readonly<Record<string, string>> = {
  '&amp;': '&',
  '&lt;': '<',
  '&gt;': '>',
  '&quot;': '"',
  '&#39;': "'",
  '&nbsp;': ' ',
}

/** The readable text of safe HTML: no tags, no code blocks, entities as characters, white space folded. */
export function plainText(html: string): string {
  const spaced = html
    .replace(/<(pre|table|figure)\b[\s\S]*?<\/\1>/g, ' ')
    .replace(/<\/(p|h[1-6]|li|blockquote|dd|dt)>|<br ?\/?>/g, ' ')
  return sanitize(spaced, { allowedTags: [], allowedAttributes: {} })
    .replace(/&(?:amp|lt|gt|quot|#39|nbsp);/g, (entity) => ENTITIES[entity] ?? entity)
    .replace(/\s+/g, ' ')
    .trim()
}

/**
 * The beginning of a text, cut at a whole word, with “…” where something was left out.
 * Counts characters as code points; a first word longer than the limit is cut inside.
 */
export function shorten(text: string, limit: number): string {
  // A character has up to two code units: what lies beyond cannot matter.
  const most = 2 * (limit + 1)
  const characters = [...(text.length > most ? text.slice(0, most) : text)]
  if (characters.length <= limit) return text
  const cut = characters.slice(0, limit + 1).join('')
  const atWord = cut.replace(/\s+\S*$/u, '')
  const kept = atWord === cut || atWord === '' ? characters.slice(0, limit).join('') : atWord
  return `${kept.replace(/[\s,;:–—-]+$/u, '')}…`
}

/** Words in a plain text, by Unicode letters and digits. */
export const countWords = (text: string) => text.match(/[\p{L}\p{N}][\p{L}\p{N}\p{M}’'-]*/gu)?.length ?? 0

/** Whole minutes, at least 1. */
export const readingMinutes = (words: number) => Math.max(1, Math.round(words / WORDS_PER_MINUTE))

/** Length of the automatic excerpt in characters; listings may cut it further. */
const AUTOMATIC_EXCERPT = 320

/** Returns what listings show of a post: its excerpt, written or taken from the start of the text, and its word count. */
export function shownText(
  html: string,
  writtenExcerpt: string | null,
): { excerpt: string; wordCount: number } {
  const text = plainText(html)
  return { excerpt: writtenExcerpt ?? shorten(text, AUTOMATIC_EXCERPT), wordCount: countWords(text) }
}
