/** A listing that takes all rows, and gets longer with every post. */
import { queryPath } from '../../shapes/documents.ts'
import { changeQuery } from '../../blog/edit-query.ts'
import type { QueryMeaning } from '../../queries/meaning.ts'
import { queriesOf } from '../../shapes/route-data.ts'
import type { Facts } from '../facts.ts'
import { witness, type Rule } from '../rule.ts'

/** What the rows are told for. */
const GROWN = 100_000
/** Rows it could be cut to without a change of its template. */
const FIRST = 50

export const listingUnbounded: Rule = {
  id: 'listing-unbounded',
  area: 'queries',
  meaning: 'A listing takes all posts, or all comments, however many there will be.',
  why: 'It is quick while the blog is small; then its pages get longer and slower with every post.',
  async run(facts) {
    const listings = [...facts.definition.queries].filter(
      ([, { from, take, countBy }]) =>
        take.kind !== 'one' && countBy.length === 0 && (from === 'posts' || from === 'comments'),
    )
    const findings = []
    for (const [name, meaning] of listings.filter(([, one]) => grows(one))) {
      const path = addressThatAsks(facts, name, await facts.addresses())
      if (path === undefined) continue
      const { rows, all } = await facts.rowsTaken(name, path)
      findings.push(finding(facts, name, meaning, path, rows, all))
    }
    return {
      findings,
      proven:
        listings.length > 0
          ? { sentence: 'No listing takes all posts or all comments', count: `${listings.length} listings` }
          : null,
    }
  },
}

/** The comments of one post are as many as readers write; those of all posts grow with the blog. */
function grows({ from, take, conditions }: QueryMeaning): boolean {
  if (take.kind !== 'all') return false
  return (
    from === 'posts' || !conditions.some((one) => one.is === 'equal' && /^post\.(slug|id)$/.test(one.field))
  )
}

function addressThatAsks(
  { definition }: Facts,
  name: string,
  { known }: Awaited<ReturnType<Facts['addresses']>>,
): string | undefined {
  const routes = definition.routes.filter(({ route }) => queriesOf(route).includes(name))
  return known.find((one) => routes.some(({ route }) => route.name === one.route))?.path
}

function finding(
  facts: Facts,
  name: string,
  { from }: QueryMeaning,
  path: string,
  rows: number,
  all: number,
) {
  const grown = all === 0 ? GROWN : Math.round((rows / all) * GROWN)
  const document = queryPath(name)
  const text = changeQuery(facts.documents.get(document) ?? '', ['take'], `first ${FIRST}`)
  const figure = (value: number) => value.toLocaleString('en-GB')
  return {
    subject: name,
    title: `Query “${name}” takes all rows`,
    detail: `${path} reads ${figure(rows)} of ${figure(all)} ${from} for it; with ${figure(GROWN)} it would be ${figure(grown)}.`,
    affects: 'possibly' as const,
    witness: witness(
      path,
      `it takes ${figure(rows)} rows today`,
      `${figure(grown)} rows of ${figure(GROWN)} ${from}`,
      'a page of them',
    ),
    because: `It says “take: all”, and nothing in it keeps the number of ${from} small.`,
    place: { document, line: null },
    also: [],
    mends:
      text === undefined
        ? []
        : [
            {
              label: `Take the first ${FIRST}`,
              changes: [{ document, text }],
              slug: null,
              after: `Its template gets ${FIRST} rows at most, in the same order. To show the others, too, give it pages.`,
            },
          ],
  }
}
