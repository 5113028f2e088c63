/** Finds unpublished posts that readers can open, because a query for one post returns them. */
import { describeLeak, leaksByQuery } from '../leaks.ts'
import type { Rule } from '../rule.ts'

export const draftReachable: Rule = {
  id: 'draft-reachable',
  area: 'queries',
  meaning: 'Readers can open a draft or a scheduled post by its address.',
  why: 'Hiding a post from listings is not enough: anyone who guesses or remembers the address can read it.',
  async run(facts) {
    const byQuery = await leaksByQuery(facts, 'one')
    const { known, total } = await facts.hidden()
    return {
      findings: [...byQuery].map(([query, leaks]) =>
        describeLeak(facts, query, leaks, {
          title: (count) =>
            count === 1
              ? 'Readers can open an unpublished post by its address'
              : `Readers can open unpublished posts at ${count} addresses`,
        }),
      ),
      claim: {
        sentence: 'No draft or scheduled post answers at its future address',
        ofSample: 'No draft or scheduled post tested answers at its future address',
        tested: known.length,
        of: total,
        things: ['address', 'addresses'],
        chosen: 'those of the oldest posts of each route',
      },
    }
  },
}
