/** Finds navigations that mark several links as the current page, or mark it on some pages only. */
import { crawl, type CrawledPage } from '../crawl.ts'
import { placeInTemplates } from '../page-place.ts'
import { ownPath } from '../page/addresses.ts'
import type { PageLink } from '../page/shape.ts'
import { counted, witness, type Rule, type RuleFinding } from '../rule.ts'

export const currentWrong: Rule = {
  id: 'current-wrong',
  area: 'templates',
  meaning:
    'A page marks links to several pages as the current one, or a navigation that marks the current page does not do so on every page.',
  why: 'Screen readers say “current page” at each of them, and styles highlight all. Readers of the other page do not learn where they are.',
  async run(facts) {
    const { pages, isComplete } = await crawl(facts)
    const findings: RuleFinding[] = []
    let tested = 0
    for (const { path, route, links } of pages) {
      const marked = links.filter((one) => one.current === 'page')
      if (marked.length === 0) continue
      tested++
      const targets = [...new Set(marked.flatMap((one) => ownPath(one.href, path) ?? []))]
      if (targets.length < 2) continue
      const place = placeInTemplates(facts, route, /aria-current="page"/)
      const subject = place ? `${place.document}:${place.line ?? ''}` : (route ?? path)
      findings.push({
        subject,
        title: `${path} marks links to ${counted(targets.length, 'page')} as the current page`,
        detail: `They lead to ${targets.slice(0, 3).join(', ')}${targets.length > 3 ? ' and others' : ''}.`,
        affects: 'now',
        witness: witness(path, 'Links with aria-current="page"', String(targets.length), '1'),
        cause:
          'aria-current="page" is printed without a condition, or with one that is met for several links.',
        place,
        others: [],
        fixes: [],
      })
    }
    for (const one of unmarkedOn(pages)) {
      const { page, link, marking } = one
      const place = placeInTemplates(facts, page.route, /aria-current=/)
      findings.push({
        subject: `unmarked ${link.navigation ?? ''} ${page.route ?? ''}`,
        title: `${page.path} does not mark its own link “${link.text.trim()}”`,
        detail: `On ${marking}, the same navigation marks the link to that page.`,
        affects: 'now',
        witness: witness(
          page.path,
          `The link “${link.text.trim()}”`,
          'no aria-current',
          'aria-current="page"',
        ),
        cause: 'The condition before aria-current="page" does not hold on this page.',
        place,
        others: [],
        fixes: [],
      })
    }
    return {
      findings,
      claim: isComplete
        ? {
            sentence:
              'No page marks links to several pages as the current one, and navigations that mark it do so on all pages but the home page',
            tested,
            things: ['page with a mark', 'pages with a mark'],
          }
        : null,
    }
  },
}

interface Unmarked {
  page: CrawledPage
  link: PageLink
  /** A page on which the navigation marks the current one. */
  marking: string
}

/** Returns pages whose own link is not marked in a navigation that marks other pages, once for each route. */
function unmarkedOn(pages: readonly CrawledPage[]): Unmarked[] {
  const marking = new Map<string, string>()
  const own = (page: CrawledPage) =>
    page.links.filter((one) => one.navigation !== null && ownPath(one.href, page.path) === page.path)
  for (const page of pages)
    for (const { current, navigation } of own(page))
      if (current === 'page' && navigation !== null && !marking.has(navigation))
        marking.set(navigation, page.path)
  const found = new Map<string, Unmarked>()
  for (const page of pages) {
    // The name of the blog, which leads to its home page, is often part of a navigation and never marked.
    if (page.path === '/') continue
    const links = own(page)
    for (const link of links) {
      const { navigation } = link
      const marked = marking.get(navigation ?? '')
      if (navigation === null || marked === undefined) continue
      if (links.some((one) => one.navigation === navigation && one.current !== '')) continue
      const key = `${navigation} ${page.route ?? ''}`
      if (!found.has(key)) found.set(key, { page, link, marking: marked })
    }
  }
  return [...found.values()]
}
