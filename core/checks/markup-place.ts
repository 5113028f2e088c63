/** Finds the line of a template that has printed a stretch of markup. */
import { COMPUTED } from './without-apart.ts'

/** Characters of a template that are compared. */
const COMPARED = 300
/** The next literal part is searched for by its first characters. */
const START = 8
/** The minimum number of literal characters that must match. */
const FEWEST = 4

/** A tag in a template. */
interface Candidate {
  document: string
  /** The line of the tag, and of the tag after it. */
  lines: readonly [number, number]
  /** The text from the tag on, without outputs and tags of the template. */
  literals: readonly string[]
  /** Whether the same text is on several lines. */
  isRepeated: boolean
}

/** The tags of templates, prepared for many searches. */
export class MarkupPlaces {
  /** The candidates by the first characters of their text. */
  readonly #candidates = new Map<string, Candidate[]>()

  /** @param texts document → text */
  constructor(texts: ReadonlyMap<string, string>) {
    const known = new Map<string, Candidate>()
    for (const [document, text] of texts)
      for (const one of candidatesIn(document, text)) {
        const key = one.literals.join('\0')
        const same = known.get(key)
        if (same) same.isRepeated ||= same.document !== document || same.lines[0] !== one.lines[0]
        else {
          known.set(key, one)
          const start = (one.literals[0] ?? '').slice(0, START)
          const others = this.#candidates.get(start)
          if (others) others.push(one)
          else this.#candidates.set(start, [one])
        }
      }
  }

  /**
   * Returns the place whose literal text matches the markup best; null if no place does, or several.
   * @param markup starts with a tag
   * @param tag the tag whose place is wanted: the first one, or the one after it
   */
  find(markup: string, tag: 0 | 1 = 0): { document: string; line: number } | null {
    let best: { document: string; line: number; score: number } | null = null
    let isTied = false
    // A literal part can be shorter than the indexed start.
    for (let length = 1; length <= START; length++)
      for (const { document, lines, literals, isRepeated } of this.#candidates.get(markup.slice(0, length)) ??
        []) {
        const score = matchingCharacters(literals, markup)
        if (score < Math.max(FEWEST, best?.score ?? 0)) continue
        const line = lines[tag]
        isTied = isRepeated || (score === best?.score && (document !== best.document || line !== best.line))
        best = { document, line, score }
      }
    return best && !isTied ? { document: best.document, line: best.line } : null
  }
}

function candidatesIn(document: string, text: string): Candidate[] {
  const found: { at: number; line: number }[] = []
  let line = 1
  for (let at = 0; at < text.length; at++) {
    if (text[at] === '\n') line++
    else if (text[at] === '<') found.push({ at, line })
  }
  return found.map((one, index) => ({
    document,
    lines: [one.line, found[index + 1]?.line ?? one.line],
    literals: text.slice(one.at, one.at + COMPARED).split(COMPUTED),
    isRepeated: false,
  }))
}

/** Returns how many characters of the literal parts occur in the markup, one part after the other. */
function matchingCharacters(literals: readonly string[], markup: string): number {
  let at = 0
  let score = 0
  for (const [index, written] of literals.entries()) {
    // Tags of the template may take the spaces beside them away.
    const literal = index === 0 ? written : written.trimStart()
    if (literal === '') continue
    const start = literal.slice(0, START)
    const found = index === 0 ? (markup.startsWith(start) ? 0 : -1) : markup.indexOf(start, at)
    if (found === -1) return score
    let length = 0
    while (length < literal.length && literal[length] === markup[found + length]) length++
    score += length
    at = found + length
    if (literal.slice(length).trim() !== '') return score
  }
  return score
}
