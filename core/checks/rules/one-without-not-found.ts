/** Finds pages about a single row that answer although there is no such row. */
import { changeQuery } from '../../blog/edit-query.ts'
import { parameterOf } from '../../queries/clauses.ts'
import type { QueryMeaning } from '../../queries/meaning.ts'
import { buildPath } from '../../routing/addresses/build.ts'
import type { CompiledRoute } from '../../routing/addresses/compiled-route.ts'
import { queryPath } from '../../shapes/documents.ts'
import type { Facts } from '../facts.ts'
import { placeOfRoute, saveFix, witness, type Rule, type RuleFinding } from '../rule.ts'

/** Values that no row has, by the type of the parameter. */
const MISSING: Readonly<Record<string, string | number>> = {
  integer: 2_147_483_646,
  number: 2_147_483_646,
  uuid: '00000000-0000-4000-8000-000000000000',
  year: 9999,
  month: 12,
  day: 31,
}
const MISSING_SLUG = 'no-row-has-this-slug'

export const oneWithoutNotFound: Rule = {
  id: 'one-without-not-found',
  area: 'queries',
  meaning: 'The address of a row that does not exist answers with a page, or with an error.',
  why: 'A mistyped or old link leads to an empty page instead of a 404, and search engines index it.',
  async run(facts) {
    const { definition } = facts
    const findings = []
    let requests = 0
    for (const compiled of definition.routes) {
      const single = compiled.method === 'GET' ? singleOf(facts, compiled) : undefined
      if (!single) continue
      const values = Object.fromEntries(
        compiled.pattern.names.map((name, at) => [
          name,
          MISSING[compiled.pattern.types[at] ?? ''] ?? MISSING_SLUG,
        ]),
      )
      const built = buildPath(compiled, values, definition.policy)
      if (!built.ok) continue
      requests++
      const answer = await facts.request(built.path)
      if (answer.status < 500 && answer.status !== 200) continue
      if (answer.route !== compiled.route.name) continue
      findings.push(describe(facts, compiled, single, built.path, answer.status))
    }
    return {
      findings,
      claim: {
        sentence: 'Missing rows answer 404',
        ofSample: 'Missing rows answer 404 on every route tested',
        tested: requests,
        of: definition.routes.filter((one) => one.method === 'GET' && one.pattern.names.length > 0).length,
        things: ['route with parameters', 'routes with parameters'],
        chosen: 'those with a query for one row that the address identifies, each with one missing row',
      },
    }
  },
}

interface Single {
  query: string
  meaning: QueryMeaning
}

/** Returns the query for one row that the address identifies. */
function singleOf({ definition }: Facts, { route, pattern }: CompiledRoute): Single | undefined {
  for (const entry of Object.values(route.data ?? {})) {
    if (typeof entry !== 'string') continue
    const meaning = definition.queries.get(entry)
    const isOfAddress = meaning?.conditions.some(
      (one) => one.is === 'equal' && pattern.names.includes(parameterOf(one.to) ?? ''),
    )
    if (meaning?.take.kind === 'one' && isOfAddress === true) return { query: entry, meaning }
  }
  return undefined
}

function describe(
  facts: Facts,
  { route }: CompiledRoute,
  { query, meaning }: Single,
  path: string,
  status: number,
): RuleFinding {
  const document = queryPath(query)
  const isAllowed = meaning.empty === 'allow'
  return {
    subject: route.name,
    title: `Route “${route.name}” answers ${status} for a row that does not exist`,
    detail: `${path} answers ${status}. Query “${query}” returns no row, but the page is rendered.`,
    affects: 'now',
    witness: witness(path, `None of the ${meaning.from} has this address`, String(status), '404'),
    cause: isAllowed
      ? `Query “${query}” does not have “empty: not-found”.`
      : 'Another query of the route returns rows.',
    place: isAllowed ? { document, line: null } : placeOfRoute(facts, route.name),
    others: [],
    fixes: isAllowed
      ? saveFix(
          document,
          changeQuery(facts.documents.get(document) ?? '', ['empty'], 'not-found'),
          'Add “empty: not-found”',
          `${path} answers 404. Addresses of existing rows are not affected.`,
        )
      : [],
  }
}
