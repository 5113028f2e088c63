/** Finds lists that are the same for every value of a parameter in their address. */
import type { CompiledRoute } from '../../routing/addresses/compiled-route.ts'
import { queryPath } from '../../shapes/documents.ts'
import { crawl } from '../crawl.ts'
import type { Facts } from '../facts.ts'
import { groupBy } from '../group-by.ts'
import { counted, witness, type Rule, type RuleFinding } from '../rule.ts'
import { sampleOf, type SampleSize } from '../sample.ts'

const TRIED: SampleSize = { oldest: 2, newest: 2, between: 4 }
/** Groups of addresses that differ in one of several parameters only. */
const GROUPS: SampleSize = { oldest: 1, newest: 2, between: 2 }
/** With fewer addresses, equal lists may be a coincidence. */
const LEAST = 3

export const listingSameEverywhere: Rule = {
  id: 'listing-same-everywhere',
  area: 'queries',
  meaning: 'A list is the same for every value of a parameter in the address of its route.',
  why: 'A condition that always holds shows every category all posts.',
  async run(facts) {
    const { known } = await facts.addresses()
    const { pages } = await crawl(facts)
    const findings: RuleFinding[] = []
    let [tested, of] = [0, 0]
    for (const compiled of facts.definition.routes) {
      const { route, pattern } = compiled
      const isFeed = route.feed !== undefined
      if (pattern.names.length === 0 || (route.template === undefined && !isFeed)) continue
      // What a query does not bind has no known addresses, but pages link to them.
      const own = [
        ...new Set([
          ...known.flatMap((one) => (one.route === route.name ? [one.path] : [])),
          ...pages.flatMap((one) => (one.route === route.name && !one.path.includes('?') ? [one.path] : [])),
        ]),
      ]
      of += own.length
      for (const parameter of pattern.names) {
        const lists = await listsBy(facts, compiled, groupsBy(compiled, own, parameter))
        tested += lists.tested
        for (const [data, entry] of Object.entries(route.data ?? {})) {
          const name = typeof entry === 'string' ? entry : entry.query
          const meaning = facts.definition.queries.get(name)
          if (!meaning || meaning.take.kind === 'one') continue
          // What does not read the parameter, such as an aside, is meant to be the same. A list with pages is not an aside,
          // and a feed has none.
          const given = typeof entry === 'string' ? {} : (entry.with ?? {})
          const readsIt = meaning.parameters.some((one) => one === parameter || given[one] === parameter)
          const isMain =
            (meaning.take.kind === 'pages' || isFeed) &&
            meaning.from === 'posts' &&
            !compiled.shared.has(data)
          if (!readsIt && !isMain) continue
          const same = lists.same(name)
          if (same.length < LEAST) continue
          if (findings.some((one) => one.subject === `${route.name} ${name}`)) continue
          findings.push(describe(compiled, name, parameter, same))
        }
      }
    }
    const sentence = 'No list was the same at all tried addresses that differ in one parameter'
    return {
      findings,
      claim: {
        ...{ sentence, ofSample: sentence, tested, of },
        things: ['address', 'addresses'],
        chosen: 'of each route the newest, the oldest, and some between',
      },
    }
  },
}

const describe = (
  { route, pattern }: CompiledRoute,
  name: string,
  parameter: string,
  same: readonly string[],
): RuleFinding => ({
  subject: `${route.name} ${name}`,
  title:
    pattern.names.length === 1
      ? `“${name}” returns the same rows at every address of route “${route.name}”`
      : `“${name}” returns the same rows for every value of “${parameter}” in route “${route.name}”`,
  detail: `It was run for ${counted(same.length, 'address', 'addresses')}.`,
  affects: 'now',
  witness: witness(same[0] ?? null, `${same.join(', ')} show the same list`),
  cause: `${queryPath(name)} has no condition on “${parameter}”, or one that holds for every row.`,
  place: { document: queryPath(name), line: null },
  others: same.slice(1),
  fixes: [],
})

/** Returns samples of addresses that differ in one parameter only. */
function groupsBy({ pattern }: CompiledRoute, own: readonly string[], parameter: string): string[][] {
  const at = pattern.names.indexOf(parameter)
  const groups = groupBy(own, (path) =>
    JSON.stringify((pattern.regexp.exec(path) ?? []).slice(1).filter((_, index) => index !== at)),
  )
  const several = [...groups.values()].filter((one) => one.length > 1)
  return sampleOf(several, GROUPS).map((one) => sampleOf(one, TRIED))
}

/** Runs the queries of groups of addresses. */
async function listsBy(facts: Facts, { route }: CompiledRoute, groups: readonly string[][]) {
  const shownBy: { path: string; lists: Map<string, string> }[][] = []
  let tested = 0
  for (const paths of groups) {
    const group: (typeof shownBy)[number] = []
    for (const path of paths) {
      const { status, route: answering } = await facts.request(path)
      if (status !== 200 || answering !== route.name) continue
      tested++
      const runs = await facts.queriesAt(path)
      group.push({ path, lists: new Map(runs.map((one) => [one.query, JSON.stringify(one.shown)])) })
    }
    shownBy.push(group)
  }
  return {
    tested,
    /** Returns the addresses of a list that is the same within each group; none if it is not, or empty everywhere. */
    same(query: string): string[] {
      const alike: string[] = []
      for (const group of shownBy) {
        const [first, ...others] = group.map((one) => one.lists.get(query))
        if (first === undefined || others.some((one) => one !== first)) return []
        if (first !== '[]' && others.length > 0) alike.push(...group.map((one) => one.path))
      }
      return alike
    },
  }
}
