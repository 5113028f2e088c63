/** Finds listings that would be much faster with an index. They are measured, never guessed. */
import { addIndex } from '../../blog/edit.ts'
import { isSameIndex, writeIndexKey } from '../../queries/indexes.ts'
import { queryPath } from '../../shapes/documents.ts'
import { queriesOf } from '../../shapes/route-data.ts'
import { saveFix, witness, type Rule } from '../rule.ts'

const FILE = 'indexes.yaml'
/** The number of posts from which a measurement counts. */
const LARGE = 100_000

export const noIndexForOrder: Rule = {
  id: 'no-index-for-order',
  area: 'queries',
  meaning: 'A listing, measured with 100,000 posts, is much slower than with an additional index.',
  why: 'Nobody notices on a small blog. On a large one, every page of the listing reads rows that it does not show.',
  async run(facts) {
    const measured = (await facts.measurements()).filter((one) => one.size >= LARGE)
    const findings = []
    for (const { query, size, advised } of measured) {
      const { definition, documents } = facts
      if (!advised || definition.indexes.some((one) => isSameIndex(one, advised.index))) continue
      const { index, before, after } = advised
      const keys = index.keys.map(writeIndexKey)
      const path = (await facts.addresses()).known.find((one) =>
        definition.routes.some(({ route }) => route.name === one.route && queriesOf(route).includes(query)),
      )?.path
      const posts = size.toLocaleString('en-GB')
      findings.push({
        subject: query,
        title: `An index would make query “${query}” faster`,
        detail: `With ${posts} posts its first page takes ${inMilliseconds(before)}. With an index on ${keys.join(', ')} it takes ${inMilliseconds(after)}.`,
        affects: 'possibly' as const,
        witness: witness(
          path ?? null,
          `Measured with ${posts} generated posts`,
          inMilliseconds(before),
          inMilliseconds(after),
        ),
        cause: 'No index has the columns of its conditions and its order together.',
        place: { document: queryPath(query), line: null },
        others: [],
        fixes: saveFix(
          FILE,
          addIndex(documents.get(FILE) ?? '', { ...index, keys }),
          `Add an index on ${keys.join(', ')}`,
          'The index is built in the background. The listing returns the same rows in the same order.',
        ),
      })
    }
    return {
      findings,
      claim: {
        sentence: 'With 100,000 posts, every query has the index that it needs',
        ofSample: 'With 100,000 posts, every query measured has the index that it needs',
        tested: measured.length,
        of: facts.definition.queries.size,
        things: ['query', 'queries'],
        chosen: 'those measured under Queries, Growth',
      },
    }
  },
}

const inMilliseconds = (value: number) => `${value >= 10 ? Math.round(value) : value.toFixed(1)} ms`
