/** Finds routes that overlap although neither is a special case of the other. */
import { moveRoute } from '../../blog/edit.ts'
import { fixRoutes, placeOfRoute, routeOf, witness, type Rule } from '../rule.ts'

export const routesOverlap: Rule = {
  id: 'routes-overlap',
  area: 'routing',
  meaning:
    'Two routes match some of the same addresses, and each matches others. Their order alone decides which one answers.',
  why: 'A literal path before a pattern is easy to see. Two overlapping patterns are not, and an address may go to the wrong one some day.',
  async run(facts) {
    const { overlaps, reach } = await facts.analysis()
    const dead = new Set(reach.filter((one) => one.outcome !== 'reached').map((one) => one.name))
    const partial = overlaps.filter(({ earlier, later, relation }) => {
      const first = routeOf(facts, earlier)
      return relation === 'partial' && !dead.has(later) && first !== undefined && !facts.passesOn(first)
    })
    return {
      findings: partial.map(({ earlier, later, witness: address }) => ({
        subject: `${earlier} ${later}`,
        title: `Routes “${earlier}” and “${later}” overlap`,
        detail: `${address} matches both. “${earlier}” answers because it comes first.`,
        affects: 'possibly' as const,
        witness: witness(address, `${address} matches both routes`, `route “${earlier}”`, null),
        cause: `${routeOf(facts, earlier)?.pattern.text ?? ''} and ${routeOf(facts, later)?.pattern.text ?? ''} overlap, and neither includes the other.`,
        place: placeOfRoute(facts, earlier),
        others: [],
        fixes: fixRoutes(facts, `Move “${later}” first`, `Route “${later}” answers ${address}.`, (text) =>
          moveRoute(text, later, earlier),
        ),
      })),
      claim: reach.some((one) => one.outcome === 'undecided')
        ? null
        : {
            sentence: 'No two routes overlap without one being a special case',
            tested: (reach.length * (reach.length - 1)) / 2,
            things: ['pair', 'pairs'],
          },
    }
  },
}
