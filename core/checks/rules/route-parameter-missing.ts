/** An address without a parameter that its query cannot do without. */
import { setRoutePath } from '../../blog/edit.ts'
import { buildPath } from '../../routing/addresses/build.ts'
import type { CompiledRoute } from '../../routing/addresses/compiled-route.ts'
import type { Facts } from '../facts.ts'
import { mendRoutes, placeOfRoute, witness, type Rule } from '../rule.ts'

export const routeParameterMissing: Rule = {
  id: 'route-parameter-missing',
  area: 'routing',
  meaning: 'A route matches addresses that lack a parameter its query needs.',
  why: 'The pattern says that the parameter may be left out; the query then compares with nothing and finds nothing.',
  async run(facts) {
    const findings = []
    let looked = 0
    for (const compiled of facts.definition.routes) {
      for (const part of compiled.pattern.parts) {
        if (part.kind !== 'parameter' || (part.modifier !== '?' && part.modifier !== '*')) continue
        looked++
        const query = needing(facts, compiled, part.name)
        const built = query === undefined ? undefined : withoutIt(facts, compiled, part.name)
        if (query === undefined || built === undefined) continue
        const { status } = await facts.ask(built)
        const { name } = compiled.route
        const required = compiled.pattern.text.replace(
          new RegExp(`(:${part.name}(?:\\([^)]*\\))?|\\{[^}]*:${part.name}[^}]*\\})[?*]`),
          '$1',
        )
        findings.push({
          subject: `${name} ${part.name}`,
          title: `Route “${name}” matches without “:${part.name}”, which query “${query}” needs`,
          detail: `${built} answers ${status}: the query compares with nothing.`,
          affects: 'now' as const,
          witness: witness(
            built,
            `${built} has no “${part.name}”`,
            String(status),
            'an address of another route, or a page',
          ),
          because: `“${part.modifier}” lets the parameter be left out, and queries/${query}.yaml compares with “:${part.name}”.`,
          place: placeOfRoute(facts, name),
          also: [],
          mends:
            required === compiled.pattern.text
              ? []
              : mendRoutes(
                  facts,
                  `Let it always have “:${part.name}”`,
                  `${built} is left to other routes.`,
                  (text) => setRoutePath(text, name, required),
                ),
        })
      }
    }
    return {
      findings,
      proven:
        looked > 0
          ? { sentence: 'Every query gets the parameters it needs', count: `${looked} optional parameters` }
          : null,
    }
  },
}

function needing({ definition }: Facts, { route }: CompiledRoute, name: string): string | undefined {
  for (const entry of Object.values(route.data ?? {})) {
    const query = typeof entry === 'string' ? entry : entry.query
    const given = typeof entry === 'string' ? {} : (entry.with ?? {})
    if (definition.queries.get(query)?.parameters.includes(name) && !Object.hasOwn(given, name)) return query
  }
  return undefined
}

/** An address of the route with every other parameter and without this one. */
function withoutIt(facts: Facts, compiled: CompiledRoute, name: string): string | undefined {
  const values = Object.fromEntries(
    compiled.pattern.names.flatMap((one, index) => {
      const type = compiled.pattern.types[index]
      return one === name ? [] : [[one, type === 'text' || type === 'slug' || type === 'path' ? 'one' : 1]]
    }),
  )
  const built = buildPath(compiled, values, facts.definition.policy)
  return built.ok ? built.path : undefined
}
