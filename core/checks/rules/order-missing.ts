/** Finds lists whose order nobody has chosen. */
import { changeQuery } from '../../blog/edit-query.ts'
import { SOURCE } from '../../queries/sources.ts'
import type { SourceName } from '../../shapes/schemas.ts'
import { queryPath } from '../../shapes/documents.ts'
import { addressUsing, saveFix, witness, type Rule } from '../rule.ts'

/** The usual order of each source. */
const USUAL: Readonly<Record<SourceName, readonly string[]>> = {
  posts: ['-publishedAt'],
  pages: ['position', 'title'],
  categories: ['position', 'name'],
  tags: ['name'],
  authors: ['name'],
  comments: ['-createdAt'],
}

export const orderMissing: Rule = {
  id: 'order-missing',
  area: 'queries',
  meaning: 'A list has no order, so it shows its rows as they were created.',
  why: 'Imported rows and those that were added later then stand in an order that means nothing to readers.',
  async run(facts) {
    const { known } = await facts.addresses()
    const lists = [...facts.definition.queries].filter(
      ([, { take, countBy, conditions }]) =>
        take.kind !== 'one' &&
        countBy.length === 0 &&
        // A search is ranked.
        !conditions.some((one) => one.is === 'matches'),
    )
    const shown = lists.flatMap(([name, meaning]) => {
      const address = addressUsing(facts, name, known)
      return address === undefined ? [] : [{ name, address, ...meaning }]
    })
    const findings = shown.flatMap(({ name, from, address, order, orderCompleted }) => {
      if (!orderCompleted || order.length !== 1) return []
      const document = queryPath(name)
      const usual = USUAL[from]
      const [, rows] = SOURCE[from].words
      return [
        {
          subject: name,
          title: `Query “${name}” has no order`,
          detail: `${address} lists the ${rows} by their ids.`,
          affects: 'now' as const,
          witness: witness(
            address,
            `${address} lists ${rows} in the order of their ids`,
            'id',
            usual.join(', '),
          ),
          cause: `${document} has no “order”.`,
          place: { document, line: null },
          others: [],
          fixes: saveFix(
            document,
            changeQuery(facts.documents.get(document) ?? '', ['order'], [...usual]),
            `Order by ${usual.join(', ')}`,
            `The ${rows} have an order that readers understand.`,
          ),
        },
      ]
    })
    return {
      findings,
      claim: {
        sentence: 'Every list that a page shows has an order',
        tested: shown.length,
        things: ['list', 'lists'],
      },
    }
  },
}
