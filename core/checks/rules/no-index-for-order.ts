/** A listing that would be far faster with an index: measured, never guessed. */
import { addIndex } from '../../blog/edit.ts'
import { queryPath } from '../../shapes/documents.ts'
import { isSameIndex, writeIndexKey } from '../../queries/indexes.ts'
import { queriesOf } from '../../shapes/route-data.ts'
import { witness, type Rule } from '../rule.ts'

const FILE = 'indexes.yaml'
/** What is small cannot show it. */
const LARGE = 100_000

export const noIndexForOrder: Rule = {
  id: 'no-index-for-order',
  area: 'queries',
  meaning:
    'A listing, measured over a hundred thousand posts, is far slower than with an index that could serve it.',
  why: 'Nobody notices on a small blog; on a large one every page of the listing waits for rows that are not shown.',
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
      const text = addIndex(documents.get(FILE) ?? '', { ...index, keys })
      findings.push({
        subject: query,
        title: `An index would serve query “${query}”`,
        detail: `With ${size.toLocaleString('en-GB')} posts its first page takes ${inMilliseconds(before)}; with an index on ${keys.join(', ')}, ${inMilliseconds(after)}.`,
        affects: 'possibly' as const,
        witness: witness(
          path ?? null,
          `measured over ${size.toLocaleString('en-GB')} invented posts`,
          inMilliseconds(before),
          inMilliseconds(after),
        ),
        because: 'What it keeps and orders by stands in no index together.',
        place: { document: queryPath(query), line: null },
        also: [],
        mends:
          text === undefined
            ? []
            : [
                {
                  label: `Add the index on ${keys.join(', ')}`,
                  changes: [{ document: FILE, text }],
                  slug: null,
                  after: 'It is made while readers read. The listing shows the same rows in the same order.',
                },
              ],
      })
    }
    return {
      findings,
      proven:
        measured.length > 0
          ? {
              sentence: 'What was measured over 100,000 posts has the indexes that serve it',
              count: `${measured.length} of ${facts.definition.queries.size} queries measured`,
            }
          : null,
    }
  },
}

const inMilliseconds = (value: number) => `${value >= 10 ? Math.round(value) : value.toFixed(1)} ms`
