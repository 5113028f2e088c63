/** Suggests a known name for one that does not exist. */
import { distance } from 'fastest-levenshtein'

/** Names listed where none is similar. */
const LISTED = 12
/** Below this similarity, a name is no better a guess than any other. */
const SIMILAR = 0.4

/** Changes of letters by which a mistyped name may differ. Two letters in the wrong order are two changes. */
const MOST_CHANGES = 2

/**
 * Returns the known name that is most similar: that shares most pairs of letters (Dice 1945), or that differs in few
 * letters (Levenshtein 1966); undefined if none is similar.
 */
export function closestName(wanted: string, known: readonly string[]): string | undefined {
  const pairs = (text: string) => new Set([...text].map((char, index) => char + (text[index + 1] ?? '')))
  const own = pairs(wanted)
  const score = (text: string) => {
    const other = pairs(text)
    return (2 * [...own].filter((pair) => other.has(pair)).length) / (own.size + other.size)
  }
  const best = known.map((name) => ({ name, score: score(name) })).sort((a, b) => b.score - a.score)[0]
  if (best && best.score > SIMILAR) return best.name
  const near = known
    .map((name) => ({ name, changes: distance(wanted, name) }))
    .sort((a, b) => a.changes - b.changes)[0]
  return near && near.changes <= Math.min(MOST_CHANGES, wanted.length / 2) ? near.name : undefined
}

/** Returns a hint for an unknown name: the most similar known name, or the known names where none is similar. */
export function suggestName(wanted: string, known: readonly string[]): string {
  const best = closestName(wanted, known)
  if (best !== undefined) return `Did you mean “${best}”?`
  if (known.length === 0) return 'There are none.'
  return `Known: ${known.slice(0, LISTED).join(', ')}${known.length > LISTED ? ', …' : ''}.`
}
