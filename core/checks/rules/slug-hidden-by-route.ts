/** Finds rows whose address another route answers. */
import { moveRoute } from '../../blog/edit.ts'
import { matchRoute } from '../../routing/addresses/match.ts'
import { counted, fixRoutes, placeOfRoute, witness, type Rule } from '../rule.ts'

export const slugHiddenByRoute: Rule = {
  id: 'slug-hidden-by-route',
  area: 'routing',
  meaning: 'An earlier route answers the address of a post, page or category.',
  why: 'It is listed and linked, but readers who follow the link get something else.',
  async run(facts) {
    const { known, total } = await facts.addresses()
    const { table } = facts.definition
    const findings = []
    for (const address of known) {
      const { path, title, route } = address
      if (title === null) continue
      const match = matchRoute(table, 'GET', path)
      if (match.outcome !== 'matched' || match.route.route.name === route) continue
      // A route that passes requests on gives way, unless it finds a row itself.
      const answer = await facts.request(path)
      const { name } = match.route.route
      if (answer.route === route) continue
      const change = await facts.freeSlugFor(address)
      findings.push({
        subject: `${route} ${path}`,
        title: `Readers cannot see “${title}”`,
        detail: `Route “${name}” answers ${path} instead of route “${route}”.`,
        affects: 'now' as const,
        witness: witness(
          path,
          `Route “${answer.route ?? name}” answers ${path}`,
          `route “${answer.route ?? name}”`,
          `route “${route}”`,
        ),
        cause: `Route “${name}” comes first, and its pattern ${match.route.pattern.text} matches.`,
        place: placeOfRoute(facts, name),
        others: [],
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
            `Move route “${route}” first`,
            `${path} shows “${title}” instead of what route “${name}” shows there.`,
            (text) => moveRoute(text, route, name),
          ),
        ],
      })
    }
    const named = known.filter((one) => one.title !== null).length
    const count =
      total > known.length ? `${named} of ${total} addresses` : counted(named, 'address', 'addresses')
    return {
      findings,
      proven: named > 0 ? { sentence: 'No row is hidden by another route', count } : null,
    }
  },
}
