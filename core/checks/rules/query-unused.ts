/** A query that nothing asks. */
import { queryPath } from '../../shapes/documents.ts'
import { queriesOf } from '../../shapes/route-data.ts'
import { witness, type Rule } from '../rule.ts'

export const queryUnused: Rule = {
  id: 'query-unused',
  area: 'queries',
  meaning: 'No route asks a query, and the not-found page does not either.',
  why: 'It is read and changed along with the others, and whatever is done to it has no effect.',
  run({ definition }) {
    const asked = new Set([
      ...definition.routes.flatMap(({ route }) => queriesOf(route)),
      ...queriesOf(definition.settings['not-found'] ?? {}),
    ])
    const unused = [...definition.queries.keys()].filter((name) => !asked.has(name))
    return Promise.resolve({
      findings: unused.map((name) => ({
        subject: name,
        title: `Nothing asks query “${name}”`,
        detail: `None of ${definition.routes.length} routes has it in its data.`,
        affects: 'possibly' as const,
        witness: witness(null, `${queryPath(name)} is named nowhere in routes.yaml`, 'no route', 'a route'),
        because: 'The route that asked it is gone or asks another, or none was made yet.',
        place: { document: queryPath(name), line: null },
        also: [],
        mends: [
          {
            label: 'Delete it',
            changes: [{ document: queryPath(name), text: null }],
            slug: null,
            after: `Query “${name}” is gone`,
          },
        ],
      })),
      proven:
        definition.queries.size > 0
          ? { sentence: 'Every query is asked', count: `${asked.size} of ${definition.queries.size}` }
          : null,
    })
  },
}
