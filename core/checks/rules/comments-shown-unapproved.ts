/** Finds pages that show comments before they are approved, or after they were removed. */
import { addCondition } from '../../blog/edit.ts'
import { queryPath } from '../../shapes/documents.ts'
import { pagesClaim } from '../comments.ts'
import { groupBy } from '../group-by.ts'
import { saveFix, witness, type Rule } from '../rule.ts'

export const commentsShownUnapproved: Rule = {
  id: 'comments-shown-unapproved',
  area: 'comments',
  meaning: 'A page shows comments that wait for approval, are spam, or were deleted.',
  why: 'Whatever anyone writes is public at once, and deleting it has no effect.',
  async run(facts) {
    const probes = await facts.comments()
    const showing = probes.flatMap(({ pages }) =>
      pages.flatMap((page) => {
        const states = page.shows.filter((state) => state !== 'shown')
        return states.length === 0 ? [] : [{ page, states, query: page.unapprovedBy[0] ?? '' }]
      }),
    )
    const findings = [...groupBy(showing, (one) => one.query)].flatMap(([query, found]) => {
      const [first, ...others] = found
      if (!first) return []
      const document = queryPath(query)
      const text = facts.documents.get(document)
      return [
        {
          subject: query || first.page.path,
          title: `${first.page.path} shows comments that are not approved`,
          detail: `Of comments that were added to try it, it shows those that are ${first.states.join(', ')}.`,
          affects: 'now' as const,
          witness: witness(
            first.page.path,
            `A comment that is ${first.states[0] ?? ''} is shown to a stranger${first.page.accepts === 'json' ? ' as JSON' : ''}`,
            ['shown', ...first.states].join(', '),
            'shown',
          ),
          cause: text === undefined ? 'The page shows them.' : `Query “${query}” has no condition “shown”.`,
          place: text === undefined ? null : { document, line: null },
          others: [...new Set(others.map((one) => one.page.path))],
          fixes:
            text === undefined
              ? []
              : saveFix(
                  document,
                  addCondition(text, 'shown'),
                  'Add “shown” to the query',
                  'Only comments that are shown, and whose parents are, are returned.',
                ),
        },
      ]
    })
    return { findings, claim: pagesClaim('No requested page shows a comment that is not approved', probes) }
  },
}
