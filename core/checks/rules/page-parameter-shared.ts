/** Finds parameters that turn the pages of a listing and have another meaning as well. */
import { fieldConditionsOf, parameterOf } from '../../queries/clauses.ts'
import { clausesOf } from '../../queries/meaning.ts'
import { queriesOf } from '../../shapes/route-data.ts'
import { placeOfRoute, witness, type Rule } from '../rule.ts'

export const pageParameterShared: Rule = {
  id: 'page-parameter-shared',
  area: 'queries',
  meaning: 'Two queries of a page read the same parameter, and one of them turns its pages by it.',
  why: 'Turning the page of one listing changes the other, so no link can lead to a page of only one of them.',
  async run(facts) {
    const { definition } = facts
    const { known } = await facts.addresses()
    const findings = []
    let checked = 0
    for (const { route } of definition.routes) {
      const queries = queriesOf(route).flatMap((name) => {
        const meaning = definition.queries.get(name)
        return meaning ? [{ name, meaning }] : []
      })
      const paged = queries.flatMap(({ name, meaning: { take } }) =>
        take.kind === 'pages' ? [{ name, parameter: take.parameter }] : [],
      )
      if (paged.length === 0) continue
      for (const { name, parameter } of paged) {
        const other = queries.find(
          (one) =>
            (one.name !== name &&
              one.meaning.take.kind === 'pages' &&
              one.meaning.take.parameter === parameter) ||
            (Object.hasOwn(route.query ?? {}, parameter) &&
              fieldConditionsOf(clausesOf(one.meaning)).some((condition) =>
                [condition.to].flat().some((to) => parameterOf(to) === parameter),
              )),
        )
        const path = known.find((one) => one.route === route.name)?.path
        // Without an address, whether both listings change cannot be shown.
        if (!other || path !== undefined) checked++
        if (!other || path === undefined) continue
        const address = `${path}?${parameter}=2`
        const before = await facts.queriesAt(path)
        const after = await facts.queriesAt(address)
        const rowsOf = (runs: typeof before, query: string) =>
          runs.find((one) => one.query === query)?.shown.join(', ') ?? ''
        const changed = [name, other.name].filter((one) => rowsOf(before, one) !== rowsOf(after, one))
        findings.push({
          subject: `${route.name} ${parameter}`,
          title: `“${name}” and “${other.name}” both read ?${parameter}=`,
          detail:
            changed.length === 0
              ? `At ${address}, neither has other rows than at ${path}.`
              : `At ${address}, ${changed.join(' and ')} ${changed.length === 1 ? 'has' : 'have'} other rows than at ${path}.`,
          affects: 'now' as const,
          witness: witness(address, `Both read ?${parameter}=2`, changed.join(', '), name),
          cause: `Query “${name}” turns its pages by ?${parameter}=, and “${other.name}” reads it as well.`,
          place: placeOfRoute(facts, route.name),
          others: [],
          fixes: [],
        })
      }
    }
    return {
      findings,
      claim: {
        sentence: 'Every listing turns its pages by its own parameter',
        tested: checked,
        things: ['listing with pages', 'listings with pages'],
      },
    }
  },
}
