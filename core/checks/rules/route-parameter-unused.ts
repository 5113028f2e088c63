/** Finds parameters of addresses that have no effect on the page. */
import { redirectReferences } from '../../routing/addresses/redirect.ts'
import { buildPath } from '../../routing/addresses/build.ts'
import type { CompiledRoute } from '../../routing/addresses/compiled-route.ts'
import type { Facts } from '../facts.ts'
import { placeOfRoute, witness, type Rule } from '../rule.ts'
import { parameterNames } from '../../queries/arguments.ts'

export const routeParameterUnused: Rule = {
  id: 'route-parameter-unused',
  area: 'routing',
  meaning: 'No query reads a parameter of a route, and the page is the same for all of its values.',
  why: 'Readers and search engines find the same page under any number of addresses.',
  async run(facts) {
    const findings = []
    let all = 0
    let checked = 0
    for (const compiled of facts.definition.routes) {
      for (const name of compiled.pattern.names) {
        all++
        if (isRead(facts, compiled, name)) checked++
        if (compiled.method !== 'GET' || isRead(facts, compiled, name)) continue
        const pages = await pagesFor(facts, compiled, name)
        if (!pages) continue
        checked++
        const [one, other] = pages.addresses
        if (!pages.same) continue
        findings.push({
          subject: `${compiled.route.name} ${name}`,
          title: `“:${name}” of route “${compiled.route.name}” has no effect`,
          detail: `${one} and ${other} show the same page.`,
          affects: 'now' as const,
          witness: witness(
            other,
            `${one} and ${other} answer with the same page`,
            '200',
            'different pages, or 404',
          ),
          cause: `No query of the route has the parameter “${name}”, and its templates do not print it.`,
          place: placeOfRoute(facts, compiled.route.name),
          others: [one],
          fixes: [],
        })
      }
    }
    return {
      findings,
      claim: {
        sentence: 'Every parameter of an address is read by a query, or changes the page',
        ofSample: 'Every parameter tested is read by a query, or changes the page',
        tested: checked,
        of: all,
        things: ['parameter', 'parameters'],
        chosen: 'those for which two addresses answer with a page',
      },
    }
  },
}

function isRead(facts: Facts, { route }: CompiledRoute, name: string): boolean {
  if (route.redirect && redirectReferences(route.redirect.to, route.data).parameters.includes(name))
    return true
  return Object.values(route.data ?? {}).some((entry) => {
    const query = facts.definition.queries.get(typeof entry === 'string' ? entry : entry.query)
    const given = typeof entry === 'string' ? {} : (entry.with ?? {})
    return (
      (query?.parameters.includes(name) && !Object.hasOwn(given, name)) ||
      Object.values(given).some((expression) => parameterNames(expression).includes(name))
    )
  })
}

/** Returns two addresses that differ only in the parameter and answer with a page, and whether it is the same. */
async function pagesFor(
  facts: Facts,
  compiled: CompiledRoute,
  name: string,
): Promise<{ addresses: [string, string]; same: boolean } | undefined> {
  const { known } = await facts.addresses()
  const example = known.find((one) => one.route === compiled.route.name)
  const match = example && compiled.pattern.regexp.exec(example.path)
  const values = Object.fromEntries(
    compiled.pattern.names.map((one, index) => [
      one,
      match?.[index + 1] ?? SAMPLES[compiled.pattern.types[index] ?? 'text']?.[0],
    ]),
  )
  const samples = SAMPLES[compiled.pattern.types[compiled.pattern.names.indexOf(name)] ?? 'text'] ?? []
  const pages: { path: string; body: string }[] = []
  for (const sample of samples) {
    const built = buildPath(compiled, { ...values, [name]: sample }, facts.definition.policy)
    if (!built.ok) continue
    const { status, body, route } = await facts.request(built.path)
    if (status === 200 && route === compiled.route.name)
      pages.push({ path: built.path, body: body.replaceAll(built.path, '') })
  }
  const [first, second] = pages
  if (!first || !second) return undefined
  return { addresses: [first.path, second.path], same: first.body === second.body }
}

const SAMPLES: Readonly<Record<string, readonly unknown[]>> = {
  text: ['one', 'other'],
  slug: ['one', 'other'],
  integer: [1, 2],
  number: [1, 2],
  uuid: ['00000000-0000-4000-8000-000000000001', '00000000-0000-4000-8000-000000000002'],
  year: [2001, 2002],
  month: [1, 2],
  day: [1, 2],
  path: ['one', 'other'],
}
