/** Finds a text in the documents of a definition. */

export interface FoundText {
  document: string
  /** 1-based. */
  line: number
  /** The line, without spaces around it. */
  text: string
}

/** Lines that are returned. The number of all is returned with them. */
const MOST = 50
/** The length of a line that is returned, in characters. */
const LONGEST = 200

/** @param wanted found whatever its capitals are */
export function findText(
  documents: ReadonlyMap<string, string>,
  wanted: string,
): { found: FoundText[]; total: number } {
  const needle = wanted.trim().toLowerCase()
  const found: FoundText[] = []
  let total = 0
  if (needle === '') return { found, total }
  for (const [document, text] of [...documents].sort(([a], [b]) => (a < b ? -1 : 1)))
    for (const [index, line] of text.split('\n').entries()) {
      const at = line.toLowerCase().indexOf(needle)
      if (at === -1) continue
      total++
      if (found.length >= MOST) continue
      // The text is in the part that is shown.
      const from = Math.max(0, Math.min(at - 40, line.length - LONGEST))
      found.push({ document, line: index + 1, text: line.slice(from, from + LONGEST).trim() })
    }
  return { found, total }
}
