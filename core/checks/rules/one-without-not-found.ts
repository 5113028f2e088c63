/** A page about one row that is shown although there is no such row. */
import { queryPath } from '../../shapes/documents.ts'
import { changeQuery } from '../../blog/edit-query.ts'
import { parameterOf } from '../../queries/clauses.ts'
import type { QueryMeaning } from '../../queries/meaning.ts'
import { buildPath } from '../../routing/addresses/build.ts'
import type { CompiledRoute } from '../../routing/addresses/compiled-route.ts'
import type { Facts } from '../facts.ts'
import { placeOfRoute, witness, type Rule } from '../rule.ts'

/** Values that nothing has, by the type of the parameter. */
const NOTHING: Readonly<Record<string, string | number>> = {
  integer: 2_147_483_646,
  number: 2_147_483_646,
  uuid: '00000000-0000-4000-8000-000000000000',
  year: 9999,
  month: 12,
  day: 31,
}
const NO_SLUG = 'nothing-has-this-name'

export const oneWithoutNotFound: Rule = {
  id: 'one-without-not-found',
  area: 'queries',
  meaning: 'An address whose row does not exist answers with a page, or fails.',
  why: 'A mistyped or old link leads to a page with nothing on it instead of “not found”, and search engines keep it.',
  async run(facts) {
    const { definition } = facts
    const findings = []
    let asked = 0
    for (const compiled of definition.routes) {
      const found = compiled.method === 'GET' ? singleOf(facts, compiled) : undefined
      if (!found) continue
      const values = Object.fromEntries(
        compiled.pattern.names.map((name, at) => [
          name,
          NOTHING[compiled.pattern.types[at] ?? ''] ?? NO_SLUG,
        ]),
      )
      const built = buildPath(compiled, values, definition.policy)
      if (!built.ok) continue
      asked++
      const answer = await facts.ask(built.path)
      if (answer.status < 500 && answer.status !== 200) continue
      if (answer.route !== compiled.route.name) continue
      findings.push(finding(facts, compiled, found, built.path, answer.status))
    }
    return {
      findings,
      proven:
        asked > 0 ? { sentence: 'What is not there is not found', count: `${asked} addresses asked` } : null,
    }
  },
}

/** The query for one row, by what the address says. */
function singleOf(
  { definition }: Facts,
  { route, pattern }: CompiledRoute,
): { query: string; meaning: QueryMeaning } | undefined {
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

function finding(
  facts: Facts,
  { route }: CompiledRoute,
  { query, meaning }: { query: string; meaning: QueryMeaning },
  path: string,
  status: number,
) {
  const document = queryPath(query)
  const text = changeQuery(facts.documents.get(document) ?? '', ['empty'], 'not-found')
  const isLenient = meaning.empty === 'allow'
  return {
    subject: route.name,
    title: `Route “${route.name}” answers ${status} where there is nothing`,
    detail: `${path} answers ${status}: query “${query}” finds no row, and the page is made all the same.`,
    affects: 'now' as const,
    witness: witness(path, `no row of ${meaning.from} has this`, String(status), '404'),
    because: isLenient
      ? `Query “${query}” says nothing about what no row means, so it means nothing.`
      : 'Another query of the route found what this one did not.',
    place: isLenient ? { document, line: null } : placeOfRoute(facts, route.name),
    also: [],
    mends:
      isLenient && text !== undefined
        ? [
            {
              label: 'Say “empty: not-found”',
              changes: [{ document, text }],
              slug: null,
              after: `${path} answers 404; addresses whose row is there stay as they are.`,
            },
          ]
        : [],
  }
}
