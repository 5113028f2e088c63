/** Finds pages that offer only the feed of the whole blog, or of another row, although there is one of their own. */
import { crawl } from '../crawl.ts'
import type { Facts, KnownAddress } from '../facts.ts'
import { matchRoute } from '../../routing/addresses/match.ts'
import { literally, placeInTemplates } from '../page-place.ts'
import { ownPath } from '../page/addresses.ts'
import { routeOf, witness, type Rule, type RuleFinding } from '../rule.ts'

/** RFC 4287, section 7; JSON Feed 1.1. RSS has no registered type; this one is common practice. */
const TYPES = { atom: 'application/atom+xml', rss: 'application/rss+xml', json: 'application/feed+json' }

export const feedElsewhere: Rule = {
  id: 'feed-elsewhere',
  area: 'templates',
  meaning:
    'A page offers feeds, but not the one with the posts that it lists, or it names the wrong type for a feed.',
  why: 'Readers subscribe to a category, and get the whole blog or another category.',
  async run(facts) {
    const { pages } = await crawl(facts)
    const own = await feedsOfRows(facts)
    const findings: RuleFinding[] = []
    let tested = 0
    for (const { path, route, status, head } of pages) {
      for (const { href, type } of status === 200 ? head.feeds : []) {
        const target = ownPath(href, path)
        const match = target === undefined ? undefined : matchRoute(facts.definition.table, 'GET', target)
        const kind = match?.outcome === 'matched' ? match.route.route.feed : undefined
        const wanted = kind === undefined ? '' : TYPES[kind]
        if (kind === undefined || type.startsWith(wanted)) continue
        findings.push({
          subject: `type ${href}`,
          title: `${path} offers ${href} as ${type}`,
          detail: 'Feed readers choose a feed by its type.',
          affects: 'now',
          witness: witness(path, `The type of the link to ${href}`, type, wanted),
          cause: `Route “${match?.outcome === 'matched' ? match.route.route.name : ''}” has “feed: ${kind}”.`,
          place: placeInTemplates(facts, route, literally(`type="${type}"`)),
          others: [],
          fixes: [],
        })
      }
      const feed = own.get(path)
      if (feed === undefined || status !== 200 || head.feeds.length === 0) continue
      tested++
      const subject = route ?? path
      if (head.feeds.some((one) => ownPath(one.href, path) === feed)) continue
      const offered = head.feeds.map((one) => one.href).join(', ')
      findings.push({
        subject,
        title: `${path} does not offer its own feed`,
        detail: `It offers ${offered}, and ${feed} has its posts.`,
        affects: 'now',
        witness: witness(path, `${path} lists the posts of ${feed}`, offered, feed),
        cause: 'The template builds the address of the feed from another route or another value.',
        place: placeInTemplates(facts, route, /<link\b[^>]*rel="alternate"/),
        others: [],
        fixes: [],
      })
    }
    return {
      findings,
      claim: {
        sentence: 'Pages that offer feeds offer the one with their posts, if there is one',
        tested,
        things: ['page', 'pages'],
      },
    }
  },
}

/** Returns the address of the feed of each page of a row that has both. */
async function feedsOfRows(facts: Facts): Promise<Map<string, string>> {
  const { known } = await facts.addresses()
  const feeds = new Map<string, KnownAddress[]>()
  const pages: KnownAddress[] = []
  for (const one of known) {
    const route = routeOf(facts, one.route)?.route
    if (one.title === null || route === undefined) continue
    if (route.feed !== undefined) feeds.set(one.title, [...(feeds.get(one.title) ?? []), one])
    else if (route.template !== undefined) pages.push(one)
  }
  return new Map(
    pages.flatMap((page) => {
      const feed = feeds.get(page.title ?? '')?.find((one) => isOfSameRows(facts, one.route, page.route))
      return feed ? [[page.path, feed.path]] : []
    }),
  )
}

/** Whether the data of two routes has a row of the same kind. */
function isOfSameRows(facts: Facts, one: string, other: string): boolean {
  const [first, second] = [routeOf(facts, one), routeOf(facts, other)]
  const kinds = [first, second].map((compiled) =>
    Object.values(compiled?.route.data ?? {}).flatMap((entry) => {
      const meaning = facts.definition.queries.get(typeof entry === 'string' ? entry : entry.query)
      return meaning?.take.kind === 'one' ? [meaning.from] : []
    }),
  )
  return kinds[0]?.some((kind) => kinds[1]?.includes(kind) === true) === true
}
