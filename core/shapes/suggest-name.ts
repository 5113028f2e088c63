/** Suggests a known name for one that does not exist. */

/**
 * Returns a hint for an unknown name: the known name with the most pairs of letters in common (Dice 1945), or the list
 * of known names where none is similar.
 */
export function suggestName(wanted: string, known: readonly string[]): string {
  const pairs = (text: string) => new Set([...text].map((char, index) => char + (text[index + 1] ?? '')))
  const own = pairs(wanted)
  const score = (text: string) => {
    const other = pairs(text)
    return (2 * [...own].filter((pair) => other.has(pair)).length) / (own.size + other.size)
  }
  const best = known.map((name) => ({ name, score: score(name) })).sort((a, b) => b.score - a.score)[0]
  if (best && best.score > 0.4) return `did you mean “${best.name}”?`
  return `known: ${known.slice(0, 12).join(', ')}${known.length > 12 ? ', …' : ''}`
}
