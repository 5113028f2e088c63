/** Two routes of which neither is a special case of the other, although they share addresses. */
import { moveRoute } from '../../blog/edit.ts'
import { mendRoutes, placeOfRoute, routeOf, witness, type Rule } from '../rule.ts'

export const routesOverlap: Rule = {
  id: 'routes-overlap',
  area: 'routing',
  meaning:
    'Two routes share some addresses, and each has others: which one answers depends on their order alone.',
  why: 'A literal before its pattern is plain to see. Two patterns that cross are not: an address may one day go to the wrong one.',
  async run(facts) {
    const { overlaps, reach } = await facts.analysis()
    const dead = new Set(reach.filter((one) => one.outcome !== 'reached').map((one) => one.name))
    const crossing = overlaps.filter(({ earlier, later, relation }) => {
      const first = routeOf(facts, earlier)
      return relation === 'partial' && !dead.has(later) && first !== undefined && !facts.passesOn(first)
    })
    return {
      findings: crossing.map(({ earlier, later, witness: address }) => ({
        subject: `${earlier} ${later}`,
        title: `Routes “${earlier}” and “${later}” share addresses`,
        detail: `${address} fits both; “${earlier}” answers it because it comes first.`,
        affects: 'possibly' as const,
        witness: witness(
          address,
          `a shortest address of both, or one that exists: “${earlier}” wins`,
          `route “${earlier}”`,
          null,
        ),
        because: `${routeOf(facts, earlier)?.pattern.text ?? ''} and ${routeOf(facts, later)?.pattern.text ?? ''} cross: neither contains the other.`,
        place: placeOfRoute(facts, earlier),
        also: [],
        mends: mendRoutes(
          facts,
          `Let “${later}” come first`,
          `${address} is answered by route “${later}”.`,
          (text) => moveRoute(text, later, earlier),
        ),
      })),
      proven:
        reach.length > 1
          ? { sentence: 'No two routes cross', count: `${(reach.length * (reach.length - 1)) / 2} pairs` }
          : null,
    }
  },
}
