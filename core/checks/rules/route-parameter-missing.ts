/** Finds routes that match without a parameter that their query needs. */
import { setRoutePath } from '../../blog/edit.ts'
import { buildPath } from '../../routing/addresses/build.ts'
import type { CompiledRoute } from '../../routing/addresses/compiled-route.ts'
import type { Facts } from '../facts.ts'
import { fixRoutes, placeOfRoute, witness, type Rule } from '../rule.ts'

export const routeParameterMissing: Rule = {
  id: 'route-parameter-missing',
  area: 'routing',
  meaning: 'A route matches addresses without a parameter that its query needs.',
  why: 'The pattern makes the parameter optional. Without it, the query has nothing to compare with and returns no row.',
  async run(facts) {
    const findings = []
    let checked = 0
    for (const compiled of facts.definition.routes) {
      for (const part of compiled.pattern.parts) {
        if (part.kind !== 'parameter' || (part.modifier !== '?' && part.modifier !== '*')) continue
        const query = needing(facts, compiled, part.name)
        const built = query === undefined ? undefined : withoutIt(facts, compiled, part.name)
        if (query === undefined || built !== undefined) checked++
        if (query === undefined || built === undefined) continue
        const { status } = await facts.request(built)
        const { name } = compiled.route
        const required = compiled.pattern.text.replace(
          new RegExp(`(:${part.name}(?:\\([^)]*\\))?|\\{[^}]*:${part.name}[^}]*\\})[?*]`),
          '$1',
        )
        findings.push({
          subject: `${name} ${part.name}`,
          title: `Route “${name}” matches without “:${part.name}”, which query “${query}” needs`,
          detail: `${built} answers ${status}, because the query has no value for “:${part.name}”.`,
          affects: 'now' as const,
          witness: witness(
            built,
            `${built} has no “:${part.name}”`,
            String(status),
            'another route, or a page',
          ),
          cause: `“${part.modifier}” makes the parameter optional, but queries/${query}.yaml needs it.`,
          place: placeOfRoute(facts, name),
          others: [],
          fixes:
            required === compiled.pattern.text
              ? []
              : fixRoutes(facts, `Make “:${part.name}” required`, `Other routes answer ${built}.`, (text) =>
                  setRoutePath(text, name, required),
                ),
        })
      }
    }
    return {
      findings,
      claim: {
        sentence: 'Every query gets the parameters that it needs',
        tested: checked,
        things: ['optional parameter', 'optional parameters'],
      },
    }
  },
}

/** Returns the query that needs a parameter. */
function needing({ definition }: Facts, { route }: CompiledRoute, name: string): string | undefined {
  for (const entry of Object.values(route.data ?? {})) {
    const query = typeof entry === 'string' ? entry : entry.query
    const given = typeof entry === 'string' ? {} : (entry.with ?? {})
    if (definition.queries.get(query)?.parameters.includes(name) && !Object.hasOwn(given, name)) return query
  }
  return undefined
}

/** Builds an address with all other parameters and without this one. */
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
