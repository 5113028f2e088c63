/** A page that asks the database again and again for what one statement could give. */
import type { Facts, Asking } from '../facts.ts'
import { placeOfRoute, witness, type Rule } from '../rule.ts'

/** Asked so often, one query with a list, or a count, would do. */
const OFTEN = 3

export const queryPerRow: Rule = {
  id: 'query-per-row',
  area: 'queries',
  meaning: 'A page asks the same query several times, or a query runs a statement for each of its rows.',
  why: 'Each statement costs a trip to the database; their number should not grow with what is shown.',
  async run(facts) {
    const findings = []
    let walked = 0
    for (const { route } of facts.definition.routes) {
      const { known } = await facts.addresses()
      const path = known.find((one) => one.route === route.name)?.path
      if (path === undefined) continue
      walked++
      const asked = await facts.asked(path)
      const worst = mostOften(asked) ?? asked.find((one) => one.statements > allowed(one))
      if (worst) findings.push(finding(facts, route.name, path, asked, worst))
    }
    return {
      findings,
      proven:
        walked > 0
          ? { sentence: 'No page asks a query again and again', count: `${walked} pages walked` }
          : null,
    }
  },
}

/** The rows, their number, whether there are rows on the other side, and one for each list of related rows. */
const allowed = ({ lists }: Asking) => 3 + lists

/** The first asking of the query that is asked most often, when that is too often. */
function mostOften(asked: readonly Asking[]): Asking | undefined {
  const times = new Map<string, number>()
  for (const { query } of asked) times.set(query, (times.get(query) ?? 0) + 1)
  return asked.find((one) => (times.get(one.query) ?? 0) >= OFTEN)
}

function finding(
  facts: Facts,
  route: string,
  path: string,
  asked: readonly Asking[],
  { query, rows }: Asking,
) {
  const same = asked.filter((one) => one.query === query)
  const statements = same.reduce((sum, one) => sum + one.statements, 0)
  const names = same.map((one) => one.data).join(', ')
  return {
    subject: `${route} ${query}`,
    title: `${path} runs ${statements} statements for query “${query}”`,
    detail: same.length > 1 ? `It is asked ${same.length} times, for ${names}.` : `It gives ${rows} rows.`,
    affects: 'now' as const,
    witness: witness(
      path,
      `query “${query}” ran ${statements} statements`,
      `${statements} statements`,
      '1 or 2',
    ),
    because:
      same.length > 1
        ? `Route “${route}” names it for ${names}, each with other parameters.`
        : 'Its statements grow with its rows.',
    place: placeOfRoute(facts, route),
    also: [],
    mends: [],
  }
}
