/** Something that cannot be seen at its own address, because another route answers there. */
import { moveRoute } from '../../blog/edit.ts'
import { matchRoute } from '../../routing/addresses/match.ts'
import { mendRoutes, placeOfRoute, witness, type Rule } from '../rule.ts'

export const slugHiddenByRoute: Rule = {
  id: 'slug-hidden-by-route',
  area: 'routing',
  meaning: 'A post, page or category has a slug whose address an earlier route answers.',
  why: 'It is listed and linked to, and whoever follows the link gets something else.',
  async run(facts) {
    const { known, total } = await facts.addresses()
    const { table } = facts.definition
    const findings = []
    for (const address of known) {
      const { path, title, route } = address
      if (title === null) continue
      const match = matchRoute(table, 'GET', path)
      if (match.outcome !== 'matched' || match.route.route.name === route) continue
      // A route that passes on gives way to it, unless it really has something there.
      const answer = await facts.ask(path)
      const { name } = match.route.route
      if (answer.route === route) continue
      const slug = await facts.freeSlugLike(address)
      findings.push({
        subject: `${route} ${path}`,
        title: `“${title}” cannot be seen`,
        detail: `${path} is answered by route “${name}”, not by “${route}”.`,
        affects: 'now' as const,
        witness: witness(
          path,
          `${path} is answered by route “${answer.route ?? name}”`,
          `route “${answer.route ?? name}”`,
          `route “${route}”`,
        ),
        because: `Route “${name}” comes first, and its pattern ${match.route.pattern.text} fits.`,
        place: placeOfRoute(facts, name),
        also: [],
        mends: [
          ...(slug
            ? [
                {
                  label: `Give it the slug “${slug.to}”`,
                  changes: [],
                  slug,
                  after: `“${title}” is seen at its new address.`,
                },
              ]
            : []),
          ...mendRoutes(
            facts,
            `Let route “${route}” come first`,
            `${path} shows “${title}”; what route “${name}” showed there is gone.`,
            (text) => moveRoute(text, route, name),
          ),
        ],
      })
    }
    const named = known.filter((one) => one.title !== null).length
    const counted = total > known.length ? `${named} of ${total} addresses` : `${named} addresses`
    return {
      findings,
      proven: named > 0 ? { sentence: 'Everything is seen at its own address', count: counted } : null,
    }
  },
}
