/** Groups characters into classes: two characters are in the same class if they are in the same character sets. */
import { CharSet } from 'refa'
import { MAX_CHARACTER } from './expression.ts'

/** Characters that read well in an example, in order of preference. */
const PLEASANT = [...'abcdefghijklmnopqrstuvwxyz', ...'0123456789', ...'-/ABCDEFGHIJKLMNOPQRSTUVWXYZ._~'].map(
  (char) => char.codePointAt(0) ?? 0,
)

/** Returns a character of a set that reads well in an example. */
export function sampleOf(set: CharSet): string {
  const code = PLEASANT.find((one) => set.has(one)) ?? set.ranges[0]?.min
  return code === undefined ? '' : String.fromCodePoint(code)
}

export interface CharacterClasses {
  /** For each set: one bit for each class it contains. */
  masks: bigint[]
  /** One character of each class. */
  samples: string[]
  /** Returns a character of one of a mask's classes, or an empty text if the mask is 0. */
  sample(mask: bigint): string
}

/** Computes the classes that a list of sets distinguishes. An undefined set is empty. */
export function characterClasses(sets: readonly (CharSet | undefined)[]): CharacterClasses {
  const bounds = new Set<number>([0])
  for (const set of sets)
    for (const { min, max } of set?.ranges ?? []) {
      bounds.add(min)
      if (max < MAX_CHARACTER) bounds.add(max + 1)
    }
  const starts = [...bounds].sort((a, b) => a - b)
  // Intervals that are in the same sets form one class.
  const classes = new Map<string, { members: boolean[]; set: CharSet }>()
  for (const [index, min] of starts.entries()) {
    const members = sets.map((set) => set?.has(min) ?? false)
    if (!members.includes(true)) continue
    const interval = CharSet.empty(MAX_CHARACTER).union([
      { min, max: (starts[index + 1] ?? MAX_CHARACTER + 1) - 1 },
    ])
    const key = members.map(Number).join('')
    const known = classes.get(key)
    classes.set(key, { members, set: known ? known.set.union(interval) : interval })
  }
  const all = [...classes.values()]
  const samples = all.map((one) => sampleOf(one.set))
  return {
    masks: sets.map((_, at) =>
      all.reduce((mask, one, bit) => (one.members[at] ? mask | (1n << BigInt(bit)) : mask), 0n),
    ),
    samples,
    sample: (mask) => samples.find((_, bit) => (mask & (1n << BigInt(bit))) !== 0n) ?? '',
  }
}
