/** Finds posts and pages that no page links to. */
import { crawl } from '../crawl.ts'
import { groupBy } from '../group-by.ts'
import { placeOfRoute, routeOf, witness, type Rule } from '../rule.ts'

/** Addresses of a route that are requested, to find out whether they answer. */
const MOST = 200

export const addressUnlinked: Rule = {
  id: 'address-unlinked',
  area: 'content',
  meaning: 'No page leads to a post, a page, a category, a tag or an author.',
  why: 'A list that is cut to its first few, or a condition that is too narrow, hides rows from readers and search engines.',
  async run(facts) {
    const { linkedFrom, isComplete, pages } = await crawl(facts)
    if (!isComplete) return { findings: [], claim: null }
    const { known, total } = await facts.addresses()
    // Feeds are found through the head of a page.
    const rows = known.filter(
      (one) => one.title !== null && routeOf(facts, one.route)?.route.template !== undefined,
    )
    const linked = new Set([...linkedFrom.keys()].map((path) => path.replace(/\?.*$/s, '')))
    const findings = []
    for (const [route, own] of groupBy(rows, (one) => one.route)) {
      const unlinked = []
      const candidates = own.filter((one) => !linked.has(one.path))
      for (const one of candidates.slice(0, MOST)) {
        const { status, route: answering } = await facts.request(one.path)
        // What another route answers, and terms without posts, are findings of their own.
        if (status === 200 && answering === route && !(await isWithoutPosts(one.path))) unlinked.push(one)
      }
      const [first, ...others] = unlinked
      if (!first) continue
      findings.push({
        subject: route,
        title:
          others.length === 0
            ? `No page links to ${first.path}`
            : `No page links to ${candidates.length > MOST ? 'at least ' : ''}${unlinked.length} of ${own.length} addresses of route “${route}”`,
        detail: `Readers can reach ${pages.length} addresses from the home page; “${first.title ?? ''}” is not among them.`,
        affects: 'now' as const,
        witness: witness(
          first.path,
          `${first.path} answers 200, and no page links to it`,
          'not linked',
          'linked',
        ),
        cause: 'No list, menu or text leads to it.',
        place: placeOfRoute(facts, route),
        others: others.map((one) => one.path),
        fixes: [],
      })
    }
    return {
      findings,
      claim:
        known.length < total
          ? null
          : {
              sentence: 'Every post, page and term is linked',
              tested: rows.length,
              things: ['address', 'addresses'],
            },
    }

    async function isWithoutPosts(path: string): Promise<boolean> {
      const lists = (await facts.queriesAt(path)).filter(({ query }) => {
        const meaning = facts.definition.queries.get(query)
        return meaning?.from === 'posts' && meaning.take.kind !== 'one' && meaning.parameters.length > 0
      })
      return lists.length > 0 && lists.every((one) => one.rows === 0)
    }
  },
}
