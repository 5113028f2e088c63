/** Limits how many matches of a search are ranked, so that frequent words cost no more on a large blog. */
import type { QueryMeaning } from './meaning.ts'

/**
 * Most matches that are ranked, counted and compared for typing errors. Ranking reads all words of a match (about 10 µs
 * in PostgreSQL), so a thousand take about as long as a page.
 */
export const RANKED_MOST = 1_000

/**
 * Returns how many matches are ranked. If there are more, the first of them in the rest of the order (the newest, for
 * instance) are ranked, and the others follow in that order. The number is a multiple of the page size, so that no page
 * mixes both.
 * @returns undefined where all matches are ranked: `take: all`, and cursor listings, whose cursors contain the rank
 */
export function rankedMost({ order, take }: Pick<QueryMeaning, 'order' | 'take'>): number | undefined {
  const [first] = order
  if (first?.field !== 'relevance' || !first.descending) return undefined
  if (take.kind === 'first') return Math.max(RANKED_MOST, take.count)
  if (take.kind !== 'pages' || take.by !== 'number') return undefined
  return Math.max(1, Math.floor(RANKED_MOST / take.size)) * take.size
}
