/** Finds rows whose address another route answers. */
import { moveRoute } from '../../blog/edit.ts'
import { matchRoute } from '../../routing/addresses/match.ts'
import type { Facts, KnownAddress } from '../facts.ts'
import { groupBy } from '../group-by.ts'
import { counted, fixRoutes, placeOfRoute, witness, type Rule, type RuleFinding } from '../rule.ts'
import { takenRoutes } from '../taken-routes.ts'

export const slugHiddenByRoute: Rule = {
  id: 'slug-hidden-by-route',
  area: 'routing',
  meaning: 'An earlier route answers the address of a post, page or category.',
  why: 'It is listed and linked, but readers who follow the link get something else.',
  async run(facts) {
    const { known, total } = await facts.addresses()
    const { table } = facts.definition
    // Routes that never answer are a finding of their own.
    const taken = await takenRoutes(facts)
    const hidden: Hidden[] = []
    let tested = 0
    for (const address of known) {
      const { path, title, route } = address
      if (title === null || taken.has(route)) continue
      tested++
      const match = matchRoute(table, 'GET', path)
      if (match.outcome !== 'matched' || match.route.route.name === route) continue
      // A route that passes requests on gives way, unless it finds a row itself.
      const answer = await facts.request(path)
      if (answer.route === route) continue
      const { route: by, pattern } = match.route
      hidden.push({ address, title, by: by.name, pattern: pattern.text, answers: answer.route ?? by.name })
    }
    const findings = []
    for (const group of groupBy(hidden, (one) => one.by).values()) findings.push(await describe(facts, group))
    return {
      findings,
      claim: {
        sentence: 'No row is hidden by another route',
        ofSample: 'No row tested is hidden by another route',
        tested,
        of: known.filter((one) => one.title !== null).length + Math.max(0, total - known.length),
        things: ['address of a row', 'addresses of rows'],
        chosen: 'the oldest rows of each route that can be reached',
      },
    }
  },
}

interface Hidden {
  address: KnownAddress
  title: string
  /** The route that matches first, with its pattern. */
  by: string
  pattern: string
  /** The route that answers. */
  answers: string
}

/** Describes everything that one route hides: moving it, or the routes behind it, is one change. */
async function describe(facts: Facts, group: readonly Hidden[]): Promise<RuleFinding> {
  const [first] = group
  if (!first) throw new Error('A route that hides nothing is no finding.')
  const { address, title, by, pattern, answers } = first
  const { path, route } = address
  const routes = [...new Set(group.map((one) => one.address.route))]
  const change = group.length === 1 ? await facts.freeSlugFor(address) : undefined
  const move = (text: string) =>
    routes.reduce<string | undefined>((moved, one) => moved && moveRoute(moved, one, by), text)
  return {
    subject: by,
    title:
      group.length === 1
        ? `Readers cannot see “${title}”`
        : `Readers cannot see ${counted(group.length, 'row')} behind route “${by}”, among them “${title}”`,
    detail: `Route “${by}” answers ${path} instead of route “${route}”.`,
    affects: 'now',
    witness: witness(path, `Route “${answers}” answers ${path}`, `route “${answers}”`, `route “${route}”`),
    cause: `Route “${by}” comes first, and its pattern ${pattern} matches.`,
    place: placeOfRoute(facts, by),
    others: group.slice(1).map((one) => one.address.path),
    fixes: [
      ...(change
        ? [
            {
              label: `Change its slug to “${change.to}”`,
              steps: [{ do: 'change-slug' as const, ...change }],
              after: `“${title}” has a new address.`,
            },
          ]
        : []),
      ...fixRoutes(
        facts,
        routes.length === 1 ? `Move route “${route}” first` : `Move route “${by}” below the others`,
        `${path} shows “${title}” instead of what route “${by}” shows there.`,
        move,
      ),
    ],
  }
}
