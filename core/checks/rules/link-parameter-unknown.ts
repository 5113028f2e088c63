/** Finds links with a parameter that the page they lead to does not read. */
import { matchRoute } from '../../routing/addresses/match.ts'
import type { Route } from '../../shapes/schemas.ts'
import { queriesOf } from '../../shapes/route-data.ts'
import { crawl } from '../crawl.ts'
import type { Facts } from '../facts.ts'
import { literally, placeInTemplates } from '../page-place.ts'
import { ownPath } from '../page/addresses.ts'
import { witness, type Rule, type RuleFinding } from '../rule.ts'

/** Parameters of pages with comments: one that is shown, and one that is replied to. */
const OF_COMMENTS = ['comment', 'reply']

export const linkParameterUnknown: Rule = {
  id: 'link-parameter-unknown',
  area: 'templates',
  meaning: 'A link has a parameter that the page to which it leads does not read.',
  why: 'Readers get the same page whatever the parameter is.',
  async run(facts) {
    const { pages, isComplete } = await crawl(facts)
    const routes = new Map((await facts.addresses()).known.map((one) => [one.path, one.route]))
    const findings: RuleFinding[] = []
    let tested = 0
    for (const page of pages)
      for (const { href, text } of page.links) {
        const target = ownPath(href, page.path)
        const [path = '', query] = target?.split('?') ?? []
        if (target === undefined || query === undefined || query === '') continue
        const match = matchRoute(facts.definition.table, 'GET', path)
        if (match.outcome !== 'matched' || match.route.route.template === undefined) continue
        const { route } = match.route
        // A route that takes the addresses of another one is a finding of its own.
        if (routes.get(path) !== route.name) continue
        tested++
        const read = parametersOf(facts, route)
        const unread = [...new URLSearchParams(query).keys()].find((one) => !read.has(one))
        const subject = `${page.route ?? ''} ${route.name} ${unread ?? ''}`
        if (unread === undefined) continue
        findings.push({
          subject,
          title: `${page.path} links to ${target}, and route “${route.name}” does not read “${unread}”`,
          detail: `The link is “${text.trim()}”.`,
          affects: 'now',
          witness: witness(
            target,
            `${path} shows the same without “${unread}”`,
            unread,
            [...read].join(', ') || 'no parameter',
          ),
          cause: `Route “${route.name}” declares no parameter “${unread}” under “query:”.`,
          place: placeInTemplates(facts, page.route, literally(`${unread}=`)),
          others: [],
          fixes: [],
        })
      }
    return {
      findings,
      claim: isComplete
        ? {
            sentence: 'Every parameter in a link is one that its page reads',
            tested,
            things: ['link', 'links'],
          }
        : null,
    }
  },
}

/** Returns the parameters of the query string that a route reads. */
function parametersOf({ definition }: Facts, route: Route): ReadonlySet<string> {
  const hasComments = definition.routes.some((one) => one.route.then === route.name)
  return new Set([
    ...Object.keys(route.query ?? {}),
    ...[...queriesOf(route), ...queriesOf({ data: definition.settings.data ?? {} })].flatMap((name) => {
      const take = definition.queries.get(name)?.take
      return take?.kind === 'pages' ? [take.parameter] : []
    }),
    ...(hasComments ? OF_COMMENTS : []),
  ])
}
