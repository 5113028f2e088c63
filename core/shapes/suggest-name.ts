/** Suggests a known name for one that does not exist. */

/** Names listed where none is similar. */
const LISTED = 12
/** Below this similarity, a name is no better a guess than any other. */
const SIMILAR = 0.4

/**
 * Returns a hint for an unknown name: the known name that shares most pairs of letters (Dice 1945), or the known names
 * where none is similar.
 */
export function suggestName(wanted: string, known: readonly string[]): string {
  const pairs = (text: string) => new Set([...text].map((char, index) => char + (text[index + 1] ?? '')))
  const own = pairs(wanted)
  const score = (text: string) => {
    const other = pairs(text)
    return (2 * [...own].filter((pair) => other.has(pair)).length) / (own.size + other.size)
  }
  const best = known.map((name) => ({ name, score: score(name) })).sort((a, b) => b.score - a.score)[0]
  if (best && best.score > SIMILAR) return `Did you mean “${best.name}”?`
  if (known.length === 0) return 'There are none.'
  return `Known: ${known.slice(0, LISTED).join(', ')}${known.length > LISTED ? ', …' : ''}.`
}
