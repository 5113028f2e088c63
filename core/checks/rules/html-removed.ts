/** Finds HTML in posts and pages that readers do not get. */
import { groupBy } from '../group-by.ts'
import { counted, witness, type Rule } from '../rule.ts'

export const htmlRemoved: Rule = {
  id: 'html-removed',
  area: 'content',
  meaning: 'A post or page contains HTML that is removed from what readers get.',
  why: 'The author has written a video or a button, and readers see nothing, or only its text.',
  async run(facts) {
    const { removed, tested, of } = await facts.removedHtml()
    return {
      findings: [...groupBy(removed, (one) => one.document)].flatMap(([document, own]) => {
        const [first] = own
        if (!first) return []
        const list = own
          .map(({ what, times }) => (times === 1 ? what : `${what} (${times} times)`))
          .join(', ')
        return [
          {
            subject: document,
            title: `“${first.title}” contains HTML that readers do not get: ${first.what}`,
            detail: `Removed: ${list}`,
            affects: first.isPublic ? ('now' as const) : ('possibly' as const),
            witness: witness(
              first.path,
              `The text has ${list}, and the page that readers get does not`,
              'removed',
            ),
            cause:
              'It is not among the elements and attributes that texts may have. They are listed under Content, HTML.',
            place: { document, line: null },
            others: [],
            fixes: [],
          },
        ]
      }),
      claim: {
        sentence: 'No HTML is removed from posts and pages',
        ofSample: 'No HTML is removed from the posts and pages that were rendered',
        tested,
        of,
        things: ['text with tags', 'texts with tags'],
        chosen: `the ${counted(tested, 'text', 'texts')} changed last`,
      },
    }
  },
}
