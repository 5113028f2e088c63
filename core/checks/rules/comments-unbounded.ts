/** Finds pages that show all comments of a post, however many there are. */
import { changeQuery } from '../../blog/edit-query.ts'
import { queryPath } from '../../shapes/documents.ts'
import { addressUsing, counted, saveFix, witness, type Rule, type RuleFinding } from '../rule.ts'

/** The number of comments for which the growth is projected: one reader can send them. */
const PROJECTED = 10_000
/** The number of comments to which a fix limits the query. */
const FIRST = 100

export const commentsUnbounded: Rule = {
  id: 'comments-unbounded',
  area: 'comments',
  meaning: 'A page shows all comments of a post, however many there are.',
  why: 'Whoever writes many comments makes the page slow for everybody, and at last too long to be rendered.',
  async run(facts) {
    const listings = [...facts.definition.queries].filter(
      ([, { from, take, countBy }]) => from === 'comments' && take.kind !== 'one' && countBy.length === 0,
    )
    const { known } = await facts.addresses()
    const findings: RuleFinding[] = []
    let unseen = 0
    for (const [name, { take, conditions }] of listings) {
      const path = addressUsing(facts, name, known)
      // Comments of all posts are those of another rule.
      const isOfPost = conditions.some(({ field, is }) => /^post\.(slug|id)$/.test(field) && is === 'equal')
      if (path === undefined) unseen++
      else if (take.kind === 'all' && isOfPost) {
        const { rows } = await facts.rowsTaken(name, path)
        const document = queryPath(name)
        findings.push({
          subject: name,
          title: `Query “${name}” returns all comments of a post`,
          detail: `${path} shows ${counted(rows, 'comment')} with it. With ${PROJECTED.toLocaleString('en-GB')} comments it would show all of them.`,
          affects: 'possibly',
          witness: witness(
            path,
            `The query returns ${counted(rows, 'row')} today`,
            'as many rows as there are comments',
            'one page of comments',
          ),
          cause: 'The query has “take: all”.',
          place: { document, line: null },
          others: [],
          fixes: saveFix(
            document,
            changeQuery(facts.documents.get(document) ?? '', ['take'], `first ${FIRST}`),
            `Take the first ${FIRST}`,
            `The template gets at most ${FIRST} comments in the same order. To show all of them, use pages instead.`,
          ),
        })
      }
    }
    return {
      findings,
      claim: {
        sentence: 'No page shows all comments of a post',
        ofSample: 'No page that was requested shows all comments of a post',
        tested: listings.length - unseen,
        of: listings.length,
        things: ['listing of comments', 'listings of comments'],
        chosen: 'those that an address uses',
      },
    }
  },
}
