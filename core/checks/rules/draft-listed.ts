/**
 * Finds unpublished posts that reach a page in any way: in a listing, a search, related posts, a count, comments, or JSON.
 * Pages are requested twice, the second time as if these posts did not exist. A page that differs shows something of them.
 */
import { CHOSEN_POSTS, describeLeak, leaksByQuery } from '../leaks.ts'
import { counted, type Rule } from '../rule.ts'

export const draftListed: Rule = {
  id: 'draft-listed',
  area: 'queries',
  meaning:
    'A listing, a search, a count or another part of a page shows readers something of an unpublished post.',
  why: 'Readers see a draft before its author wants it, or a number that does not fit what they find.',
  async run(facts) {
    const { posts, allPosts, addresses } = await facts.leaks()
    const byQuery = await leaksByQuery(facts, 'several')
    return {
      findings: [...byQuery].map(([query, leaks]) =>
        describeLeak(facts, query, leaks, {
          title: (count) =>
            `Query “${query}” shows unpublished posts at ${counted(count, 'address', 'addresses')}`,
        }),
      ),
      claim: {
        sentence: `None of ${counted(addresses, 'page')} requested shows anything of an unpublished post`,
        ofSample: `None of ${counted(addresses, 'page')} requested shows anything of the unpublished posts tested`,
        tested: posts,
        of: allPosts,
        things: ['unpublished post', 'unpublished posts'],
        chosen: CHOSEN_POSTS,
      },
    }
  },
}
