/** How alike two addresses are: by the pairs of characters they share, or by the few typing errors between them. */

function pairsOf(text: string): Set<string> {
  const pairs = new Set<string>()
  for (let index = 0; index < text.length - 1; index++) pairs.add(text.slice(index, index + 2))
  return pairs
}

/** Dice 1945: from 0, no pair in common, to 1, the same pairs. */
function sharedPairs(a: string, b: string): number {
  const [one, other] = [pairsOf(a), pairsOf(b)]
  if (one.size + other.size === 0) return 0
  let shared = 0
  for (const pair of one) if (other.has(pair)) shared++
  return (2 * shared) / (one.size + other.size)
}

/** Characters to insert, delete, replace or exchange with their neighbour (Damerau 1964, optimal string alignment). */
export function typingErrors(a: string, b: string): number {
  let before: number[] = []
  let above = Array.from({ length: b.length + 1 }, (_, index) => index)
  for (let i = 1; i <= a.length; i++) {
    const row = [i]
    for (let j = 1; j <= b.length; j++) {
      const replaced = (above[j - 1] ?? 0) + (a[i - 1] === b[j - 1] ? 0 : 1)
      let least = Math.min((above[j] ?? 0) + 1, (row[j - 1] ?? 0) + 1, replaced)
      if (i > 1 && j > 1 && a[i - 1] === b[j - 2] && a[i - 2] === b[j - 1])
        least = Math.min(least, (before[j - 2] ?? 0) + 1)
      row.push(least)
    }
    before = above
    above = row
  }
  return above[b.length] ?? 0
}

/** Typing errors are counted in texts up to this length; longer ones share pairs or do not. */
const COUNTED = 64
/** With more errors than one in so many characters, it is another word. */
const ERRORS_IN = 4

/** From 0, nothing in common, to 1, the same. */
export function alikeness(a: string, b: string): number {
  const pairs = sharedPairs(a, b)
  const length = Math.max(a.length, b.length)
  if (length === 0) return 1
  if (length > COUNTED || Math.abs(a.length - b.length) > length / ERRORS_IN) return pairs
  const errors = typingErrors(a, b)
  return errors > length / ERRORS_IN ? pairs : Math.max(pairs, 1 - errors / length)
}

/** Below this, an address is no better a guess than any other. */
const ENOUGH = 0.45

/** Addresses with most pairs in common that are compared in full. */
const COMPARED = 40

/** Many addresses, arranged by their pairs of characters, so that the ones like another are found without comparing all. */
export class AddressIndex<T extends { path: string }> {
  readonly #known: readonly T[]
  readonly #sizes: number[] = []
  readonly #byPair = new Map<string, number[]>()

  constructor(known: readonly T[]) {
    this.#known = known
    for (const [index, { path }] of known.entries()) {
      const pairs = pairsOf(path)
      this.#sizes.push(pairs.size)
      for (const pair of pairs) {
        const places = this.#byPair.get(pair)
        if (places) places.push(index)
        else this.#byPair.set(pair, [index])
      }
    }
  }

  /** The addresses most like a wanted one, best first, each path once. */
  mostAlike(wanted: string, count: number): T[] {
    const lower = wanted.toLowerCase()
    const pairs = pairsOf(lower)
    const shared = new Map<number, number>()
    for (const pair of pairs)
      for (const index of this.#byPair.get(pair) ?? []) shared.set(index, (shared.get(index) ?? 0) + 1)
    const promising = [...shared]
      .map(([index, common]) => ({ index, score: (2 * common) / (pairs.size + (this.#sizes[index] ?? 0)) }))
      .sort((a, b) => b.score - a.score)
      .slice(0, COMPARED)
    const seen = new Set<string>()
    return promising
      .flatMap(({ index }) => this.#known[index] ?? [])
      .map((one) => ({ one, score: alikeness(lower, one.path) }))
      .filter(({ score }) => score >= ENOUGH)
      .sort((a, b) => b.score - a.score || a.one.path.length - b.one.path.length)
      .flatMap(({ one }) => (seen.has(one.path) ? [] : (seen.add(one.path), [one])))
      .slice(0, count)
  }
}

/** The same for a few addresses that are looked at once. */
export const mostAlike = <T extends { path: string }>(
  wanted: string,
  known: readonly T[],
  count: number,
): T[] => new AddressIndex(known).mostAlike(wanted, count)
