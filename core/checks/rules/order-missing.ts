/** Finds lists of posts whose order nobody has chosen. */
import { changeQuery } from '../../blog/edit-query.ts'
import { queryPath } from '../../shapes/documents.ts'
import { addressUsing, saveFix, witness, type Rule } from '../rule.ts'

export const orderMissing: Rule = {
  id: 'order-missing',
  area: 'queries',
  meaning: 'A list of posts has no order, so it shows them as they were created.',
  why: 'Imported and edited posts then stand in an order that has nothing to do with their dates.',
  async run(facts) {
    const { known } = await facts.addresses()
    const lists = [...facts.definition.queries].filter(
      ([, { from, take, countBy, conditions }]) =>
        from === 'posts' &&
        take.kind !== 'one' &&
        countBy.length === 0 &&
        // A search is ranked.
        !conditions.some((one) => one.is === 'matches'),
    )
    const shown = lists.flatMap(([name, meaning]) => {
      const address = addressUsing(facts, name, known)
      return address === undefined ? [] : [{ name, address, ...meaning }]
    })
    const findings = shown.flatMap(({ name, address, order, orderCompleted }) => {
      if (!orderCompleted || order.length !== 1) return []
      const document = queryPath(name)
      return [
        {
          subject: name,
          title: `Query “${name}” has no order`,
          detail: `${address} lists the posts by their ids.`,
          affects: 'now' as const,
          witness: witness(address, `${address} lists posts in the order of their ids`, 'id', '-publishedAt'),
          cause: `${document} has no “order”.`,
          place: { document, line: null },
          others: [],
          fixes: saveFix(
            document,
            changeQuery(facts.documents.get(document) ?? '', ['order'], ['-publishedAt']),
            'Order by date, newest first',
            'The newest posts come first.',
          ),
        },
      ]
    })
    return {
      findings,
      claim: {
        sentence: 'Every list of posts that a page shows has an order',
        tested: shown.length,
        things: ['list', 'lists'],
      },
    }
  },
}
