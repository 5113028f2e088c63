/** How many matches of a search are ranked: what a word that is everywhere costs must not grow with the blog. */
import type { QueryMeaning } from './meaning.ts'

/**
 * Matches that are ranked, counted and looked through for typing errors. To rank one, all its words are read (some 10 µs
 * in PostgreSQL): a thousand are done in the time of a page.
 */
export const RANKED_MOST = 1_000

/**
 * Of more matches than these, the first in the rest of the order, the newest for instance, are ranked, and the others
 * follow as that order has them. A whole number of pages, so that no page has rows of both.
 * @returns undefined where all are ranked: those are asked for at once, or turned by cursors, which say how well the row
 *   fits where a page begins
 */
export function rankedMost({ order, take }: Pick<QueryMeaning, 'order' | 'take'>): number | undefined {
  const [first] = order
  if (first?.field !== 'relevance' || !first.descending) return undefined
  if (take.kind === 'first') return Math.max(RANKED_MOST, take.count)
  if (take.kind !== 'pages' || take.by !== 'number') return undefined
  return Math.max(1, Math.floor(RANKED_MOST / take.size)) * take.size
}
