/** Finds listings in which two rows tie, one at the end of a page and one at the start of the next. */
import { queryPath } from '../../shapes/documents.ts'
import { witness, type Rule } from '../rule.ts'

export const orderNotTotal: Rule = {
  id: 'order-not-total',
  area: 'queries',
  meaning: 'Two rows of a paged listing tie, one at the end of a page and one at the start of the next.',
  why: 'Their order may differ between requests. A reader who turns the page may see one of them twice and the other never.',
  async run(facts) {
    const paged = [...facts.definition.queries].filter(([, { take }]) => take.kind === 'pages')
    const findings = []
    for (const [name, { order }] of paged) {
      const tie = await facts.tieAtPageEnd(name)
      if (!tie) continue
      const keys = order.map((one) => `${one.descending ? '-' : ''}${one.field}`)
      const { first, second, page } = tie
      findings.push({
        subject: name,
        title: `The order of “${name}” does not decide between two rows at the end of page ${page}`,
        detail: `“${first}” and “${second}” have the same ${keys.join(', ') || 'order'}.`,
        affects: 'now' as const,
        witness: witness(
          null,
          `“${first}” is the last on page ${page}, “${second}” the first on page ${page + 1}`,
          'any order',
          'one order',
        ),
        cause: 'None of the fields that it orders by is different in every row.',
        place: { document: queryPath(name), line: null },
        others: [],
        fixes: [],
      })
    }
    return {
      findings,
      claim: {
        sentence: 'No two rows tie at the end of a page',
        tested: paged.length,
        things: ['paged query', 'paged queries'],
      },
    }
  },
}
