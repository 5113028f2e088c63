/** Finds the line of a template that has printed a stretch of markup. */

/** What templates print, and what they compute. */
const COMPUTED = /\{\{.*?\}\}|\{%.*?%\}/gs
/** Characters of a template that are compared. */
const COMPARED = 300
/** Characters by which the start of the next written part is found. */
const START = 8
/** Written characters that must agree. */
const FEWEST = 4

/**
 * Returns the place whose written parts agree with the markup for longest; null if no place does, or several.
 * @param texts document → text
 * @param markup starts with a tag
 */
export function placeOfMarkup(
  texts: ReadonlyMap<string, string>,
  markup: string,
  tag = 0,
): { document: string; line: number } | null {
  let best: { document: string; line: number; score: number } | null = null
  let isTied = false
  for (const [document, text] of texts)
    for (let at = text.indexOf('<'); at !== -1; at = text.indexOf('<', at + 1)) {
      const score = agreement(text.slice(at, at + COMPARED).split(COMPUTED), markup)
      if (score < Math.max(FEWEST, best?.score ?? 0)) continue
      const wanted = tag === 0 ? at : Math.max(at, text.indexOf('<', at + 1))
      const line = text.slice(0, wanted).split('\n').length
      isTied = score === best?.score && (document !== best.document || line !== best.line)
      best = { document, line, score }
    }
  return best && !isTied ? { document: best.document, line: best.line } : null
}

/** Returns how many characters of the written parts occur in the markup, one after the other. */
function agreement(written: readonly string[], markup: string): number {
  let at = 0
  let score = 0
  for (const [index, part] of written.entries()) {
    if (part === '') continue
    const start = part.slice(0, START)
    const found = index === 0 ? (markup.startsWith(start) ? 0 : -1) : markup.indexOf(start, at)
    if (found === -1) return score
    let length = 0
    while (length < part.length && part[length] === markup[found + length]) length++
    score += length
    at = found + length
    if (length < part.length) return score
  }
  return score
}
