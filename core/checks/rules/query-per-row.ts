/** Finds pages that run many statements where one would do. */
import type { Facts, PageQuery } from '../facts.ts'
import { counted, placeOfRoute, witness, type Rule, type RuleFinding } from '../rule.ts'

/** A query that runs this often could be replaced by one with a list or a count. */
const OFTEN = 3

export const queryPerRow: Rule = {
  id: 'query-per-row',
  area: 'queries',
  meaning: 'A page runs the same query several times, or a query runs a statement for each of its rows.',
  why: 'Every statement is a round trip to the database. Their number should not grow with what is shown.',
  async run(facts) {
    const findings = []
    let walked = 0
    for (const { route } of facts.definition.routes) {
      const { known } = await facts.addresses()
      const path = known.find((one) => one.route === route.name)?.path
      if (path === undefined) continue
      walked++
      const runs = await facts.queriesAt(path)
      const worst = mostFrequent(runs) ?? runs.find((one) => one.statements > allowed(one))
      if (worst) findings.push(describe(facts, route.name, path, runs, worst))
    }
    return {
      findings,
      proven:
        walked > 0
          ? {
              sentence: 'No page checked runs a query again and again',
              count: counted(walked, 'page'),
            }
          : null,
    }
  },
}

/** The rows, their number, whether there are rows on the other side, and one statement for each list of related rows. */
const allowed = ({ lists }: PageQuery) => 3 + lists

/** Returns the first run of the most frequent query, if it runs too often. */
function mostFrequent(runs: readonly PageQuery[]): PageQuery | undefined {
  const times = new Map<string, number>()
  for (const { query } of runs) times.set(query, (times.get(query) ?? 0) + 1)
  return runs.find((one) => (times.get(one.query) ?? 0) >= OFTEN)
}

function describe(
  facts: Facts,
  route: string,
  path: string,
  runs: readonly PageQuery[],
  { query, rows }: PageQuery,
): RuleFinding {
  const same = runs.filter((one) => one.query === query)
  const statements = same.reduce((sum, one) => sum + one.statements, 0)
  const names = same.map((one) => one.data).join(', ')
  return {
    subject: `${route} ${query}`,
    title: `${path} runs ${statements} statements for query “${query}”`,
    detail: same.length > 1 ? `It runs ${same.length} times, for ${names}.` : `It returns ${rows} rows.`,
    affects: 'now',
    witness: witness(
      path,
      `Query “${query}” ran ${statements} statements`,
      `${statements} statements`,
      '1 or 2',
    ),
    cause:
      same.length > 1
        ? `Route “${route}” uses it for ${names}, each time with other parameters.`
        : 'The number of its statements grows with its rows.',
    place: placeOfRoute(facts, route),
    others: [],
    fixes: [],
  }
}
