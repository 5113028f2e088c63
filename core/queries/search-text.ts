/** What a reader searches for, shortened to what a search can answer quickly. */

/** Characters and words of a search. Ranking and extracts cost more with each word. */
const LONGEST = 200
const MOST_WORDS = 12

/**
 * Returns the text of a search without repeated words and without what is beyond the limits. Quotes, “or” and “-” keep
 * their meaning: a text with quotes is only cut.
 */
export function searchText(text: string): string {
  const words = text.trim().split(/\s+/)
  const seen = new Set<string>()
  const kept = text.includes('"')
    ? words
    : words.filter((word) => {
        const key = word.toLowerCase()
        if (key !== 'or' && seen.has(key)) return false
        seen.add(key)
        return true
      })
  return [...kept.slice(0, MOST_WORDS).join(' ')].slice(0, LONGEST).join('')
}
