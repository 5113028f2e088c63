/** Finds pages that run many statements where one would do. */
import type { Facts, PageQuery } from '../facts.ts'
import { groupBy } from '../group-by.ts'
import { placeOfRoute, witness, type Rule, type RuleFinding } from '../rule.ts'
import { sampleOf, type SampleSize } from '../sample.ts'

/** Addresses of each route that are walked. */
const WALKED: SampleSize = { oldest: 1, newest: 1, between: 1 }

export const queryPerRow: Rule = {
  id: 'query-per-row',
  area: 'queries',
  meaning:
    'A page runs a query again with the same parameters, or a query runs a statement for each of its rows.',
  why: 'Every statement is a round trip to the database. Their number should not grow with what is shown.',
  async run(facts) {
    const { known, total } = await facts.addresses()
    const findings = []
    let walked = 0
    for (const [route, addresses] of groupBy(known, (one) => one.route)) {
      for (const { path } of sampleOf(addresses, WALKED)) {
        walked++
        const runs = await facts.queriesAt(path)
        const worst = repeated(runs) ?? runs.find((one) => one.statements > allowed(one))
        if (!worst) continue
        findings.push(describe(facts, route, path, runs, worst))
        break
      }
    }
    return {
      findings,
      claim: {
        sentence: 'No page runs a query twice, or a statement for each row',
        ofSample: 'No page walked runs a query twice, or a statement for each row',
        tested: walked,
        of: total,
        things: ['page', 'pages'],
        chosen: 'of each route the newest, the oldest, and one between',
      },
    }
  },
}

/** The rows, their number, whether there are rows on the other side, and one statement for each list of related rows. */
const allowed = ({ lists }: PageQuery) => 3 + lists

const isSameRun = (one: PageQuery, other: PageQuery) =>
  one.query === other.query && one.parameters === other.parameters

/** Returns the first run that another one repeats, with the same parameters. */
const repeated = (runs: readonly PageQuery[]): PageQuery | undefined =>
  runs.find((one, at) => runs.some((other, later) => later > at && isSameRun(one, other)))

function describe(
  facts: Facts,
  route: string,
  path: string,
  runs: readonly PageQuery[],
  worst: PageQuery,
): RuleFinding {
  const { query, rows } = worst
  const same = runs.filter((one) => isSameRun(one, worst))
  const statements = same.reduce((sum, one) => sum + one.statements, 0)
  const names = same.map((one) => one.data).join(', ')
  return {
    subject: `${route} ${query}`,
    title: `${path} runs ${statements} statements for query “${query}”`,
    detail:
      same.length > 1
        ? `It runs ${same.length} times with the same parameters, for ${names}.`
        : `It returns ${rows} rows.`,
    affects: 'now',
    witness: witness(
      path,
      `Query “${query}” ran ${statements} statements`,
      `${statements} statements`,
      `at most ${allowed(worst)}`,
    ),
    cause:
      same.length > 1
        ? `Route “${route}” uses it for ${names}. One of them can be used for all.`
        : 'The number of its statements grows with its rows.',
    place: placeOfRoute(facts, route),
    others: [],
    fixes: [],
  }
}
