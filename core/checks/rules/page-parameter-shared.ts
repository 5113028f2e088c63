/** One parameter of an address that turns the pages of a listing and means something else as well. */
import { parameterOf, fieldConditionsOf } from '../../queries/clauses.ts'
import { clausesOf } from '../../queries/meaning.ts'
import { queriesOf } from '../../shapes/route-data.ts'
import { placeOfRoute, witness, type Rule } from '../rule.ts'

export const pageParameterShared: Rule = {
  id: 'page-parameter-shared',
  area: 'queries',
  meaning:
    'Two queries of one page react to the same parameter of its address, and one of them turns pages by it.',
  why: 'Turning the page of one listing changes the other, and no link can lead to both as the reader wants them.',
  async run(facts) {
    const { definition } = facts
    const { known } = await facts.addresses()
    const findings = []
    let looked = 0
    for (const { route } of definition.routes) {
      const queries = queriesOf(route).flatMap((name) => {
        const meaning = definition.queries.get(name)
        return meaning ? [{ name, meaning }] : []
      })
      const paged = queries.flatMap(({ name, meaning: { take } }) =>
        take.kind === 'pages' ? [{ name, parameter: take.parameter }] : [],
      )
      if (paged.length === 0) continue
      looked++
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
        if (!other || path === undefined) continue
        const address = `${path}?${parameter}=2`
        const before = await facts.asked(path)
        const after = await facts.asked(address)
        const rowsOf = (asked: typeof before, query: string) =>
          asked.find((one) => one.query === query)?.shown.join(', ') ?? ''
        const changed = [name, other.name].filter((one) => rowsOf(before, one) !== rowsOf(after, one))
        findings.push({
          subject: `${route.name} ${parameter}`,
          title: `“${name}” and “${other.name}” both react to ?${parameter}=`,
          detail: `At ${address}, ${changed.length === 0 ? 'neither has other rows' : `${changed.join(' and ')} ${changed.length === 1 ? 'has' : 'have'} other rows`} than at ${path}.`,
          affects: 'now' as const,
          witness: witness(address, `?${parameter}=2 is read by both`, changed.join(', '), name),
          because: `Query “${name}” turns its pages by ?${parameter}=, and “${other.name}” reads it, too.`,
          place: placeOfRoute(facts, route.name),
          also: [],
          mends: [],
        })
      }
    }
    return {
      findings,
      proven:
        looked > 0
          ? {
              sentence: 'Each listing turns its pages by a parameter of its own',
              count: `${looked} routes with pages`,
            }
          : null,
    }
  },
}
