/** Two rows that stand in no order to each other, one before and one after the end of a page. */
import { queryPath } from '../../shapes/documents.ts'
import { witness, type Rule } from '../rule.ts'

export const orderNotTotal: Rule = {
  id: 'order-not-total',
  area: 'queries',
  meaning: 'Two rows of a paged listing tie, one at the end of a page and one at the beginning of the next.',
  why: 'Which comes first may differ from request to request: a reader who turns the page sees one twice, and one never.',
  async run(facts) {
    const paged = [...facts.definition.queries].filter(([, { take }]) => take.kind === 'pages')
    const findings = []
    for (const [name, { order }] of paged) {
      const tie = await facts.tieAtPageEnd(name)
      if (!tie) continue
      const keys = order.map((one) => `${one.descending ? '-' : ''}${one.field}`)
      findings.push({
        subject: name,
        title: `The order of “${name}” leaves two rows at the end of page ${tie.page} open`,
        detail: `“${tie.first}” and “${tie.second}” are the same in ${keys.join(', ') || 'everything it orders by'}.`,
        affects: 'now' as const,
        witness: witness(
          null,
          `“${tie.first}” ends page ${tie.page}, “${tie.second}” begins page ${tie.page + 1}`,
          'either order',
          'one order',
        ),
        because: 'Nothing it orders by is different in every row.',
        place: { document: queryPath(name), line: null },
        also: [],
        mends: [],
      })
    }
    return {
      findings,
      proven:
        paged.length > 0
          ? { sentence: 'No two rows tie at the end of a page', count: `${paged.length} paged queries` }
          : null,
    }
  },
}
