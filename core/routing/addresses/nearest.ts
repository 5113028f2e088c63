/** Finds similar addresses, by the pairs of characters that they share or by the number of typing errors between them. */

function pairsOf(text: string): Set<string> {
  const pairs = new Set<string>()
  for (let index = 0; index < text.length - 1; index++) pairs.add(text.slice(index, index + 2))
  return pairs
}

/** Returns the Dice coefficient (Dice 1945) of the pairs: 0 if none is shared, 1 if all are. */
function sharedPairs(a: string, b: string): number {
  const [one, other] = [pairsOf(a), pairsOf(b)]
  if (one.size + other.size === 0) return 0
  let shared = 0
  for (const pair of one) if (other.has(pair)) shared++
  return (2 * shared) / (one.size + other.size)
}

/** Counts insertions, deletions, replacements and transpositions (Damerau 1964, optimal string alignment). */
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

/** The maximum length, in characters, up to which typing errors are counted. */
const COUNTED_LENGTH = 64
/** At most one typing error in this many characters counts as similar. */
const CHARACTERS_PER_ERROR = 4

/** Returns how similar two texts are, from 0 (nothing in common) to 1 (equal). */
export function similarity(a: string, b: string): number {
  const pairs = sharedPairs(a, b)
  const length = Math.max(a.length, b.length)
  if (length === 0) return 1
  if (length > COUNTED_LENGTH || Math.abs(a.length - b.length) > length / CHARACTERS_PER_ERROR) return pairs
  const errors = typingErrors(a, b)
  return errors > length / CHARACTERS_PER_ERROR ? pairs : Math.max(pairs, 1 - errors / length)
}

/** The similarity from which an address is worth suggesting. */
const SIMILAR = 0.45

/** How many addresses, those with the most pairs in common, are compared in full. */
const COMPARED = 40

/** An index of addresses by pairs of characters, which finds similar ones without comparing all of them. */
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

  /** Returns the most similar addresses, best first, each path once. */
  mostSimilar(wanted: string, count: number): T[] {
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
      .map((one) => ({ one, score: similarity(lower, one.path) }))
      .filter(({ score }) => score >= SIMILAR)
      .sort((a, b) => b.score - a.score || a.one.path.length - b.one.path.length)
      .flatMap(({ one }) => (seen.has(one.path) ? [] : (seen.add(one.path), [one])))
      .slice(0, count)
  }
}

/** Returns the most similar of a few addresses, without keeping an index. */
export const mostSimilar = <T extends { path: string }>(
  wanted: string,
  known: readonly T[],
  count: number,
): T[] => new AddressIndex(known).mostSimilar(wanted, count)
