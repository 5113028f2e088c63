/** Finds queries that nothing uses. */
import { queryPath } from '../../shapes/documents.ts'
import { queriesOf } from '../../shapes/route-data.ts'
import { counted, witness, type Rule } from '../rule.ts'

export const queryUnused: Rule = {
  id: 'query-unused',
  area: 'queries',
  meaning: 'Neither a route nor the 404 page uses a query.',
  why: 'Developers read and change it along with the others, without any effect.',
  run({ definition }) {
    const used = new Set([
      ...definition.routes.flatMap(({ route }) => queriesOf(route)),
      ...queriesOf(definition.settings['not-found'] ?? {}),
    ])
    const unused = [...definition.queries.keys()].filter((name) => !used.has(name))
    return Promise.resolve({
      findings: unused.map((name) => ({
        subject: name,
        title: `Nothing uses query “${name}”`,
        detail: `None of the ${counted(definition.routes.length, 'route')} has it in its data.`,
        affects: 'possibly' as const,
        witness: witness(null, `routes.yaml does not mention “${name}”`, 'no route', 'a route'),
        cause: 'The route that used it was deleted or uses another query, or no route uses it yet.',
        place: { document: queryPath(name), line: null },
        others: [],
        fixes: [
          {
            label: 'Delete',
            steps: [{ do: 'delete-document' as const, document: queryPath(name) }],
            after: `Query “${name}” is deleted.`,
          },
        ],
      })),
      claim: {
        sentence: 'Every query is used',
        tested: definition.queries.size,
        things: ['query', 'queries'],
      },
    })
  },
}
