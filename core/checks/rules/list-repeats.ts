/** Finds lists that have the same item several times, and pages that show their posts again and again. */
import { shorten } from '../../content/text.ts'
import { crawl, type CrawledPage } from '../crawl.ts'
import type { Facts, KnownAddress } from '../facts.ts'
import { literally, placeInTemplates } from '../page-place.ts'
import { ownPath, pathOf } from '../page/addresses.ts'
import { counted, isOfPost, routeOf, witness, type Rule, type RuleFinding } from '../rule.ts'
import { templatePath } from '../../shapes/documents.ts'

export const listRepeats: Rule = {
  id: 'list-repeats',
  area: 'templates',
  meaning:
    'A list on a page has the same item with a link several times, or a page shows its posts again and again.',
  why: 'A loop inside a loop lacks its condition, or a query returns a row for each of its related rows.',
  async run(facts) {
    const { pages, isComplete } = await crawl(facts)
    const findings: RuleFinding[] = []
    let tested = 0
    for (const { path, route, status, items } of pages) {
      if (status !== 200) continue
      tested++
      const times = new Map<string, { text: string; target: string; times: number }>()
      for (const { list, hrefs, text } of items) {
        const [target] = hrefs.flatMap((one) => ownPath(one, path) ?? [])
        const shown = text.replace(/\s+/g, ' ').trim()
        if (target === undefined || shown === '') continue
        // Several items may link to the same row, but say something else.
        const key = [list, shown, ...hrefs].join('\n')
        const known = times.get(key)
        if (known) known.times++
        else times.set(key, { text: shown, target, times: 1 })
      }
      const repeated = [...times.values()].filter((one) => one.times > 1)
      const [first] = repeated
      if (!first) continue
      const linked = (await facts.request(first.target)).route ?? ''
      const place = placeInTemplates(
        facts,
        route,
        new RegExp(`<li\\b[^\\n]*'${literally(linked).source}'\\s*\\|\\s*url`),
      ) ?? {
        document: templatePath(routeOf(facts, route ?? '')?.route.template ?? ''),
        line: null,
      }
      const subject = `${place.document}:${place.line ?? ''} ${linked}`
      findings.push({
        subject,
        title: `${path} has “${shorten(first.text, 60)}” ${first.times} times in one list`,
        detail:
          repeated.length === 1
            ? 'No other item of the page is repeated.'
            : `${counted(repeated.length, 'item')} of the page are repeated like this.`,
        affects: 'now',
        witness: witness(path, `Items with a link to ${first.target} in one list`, String(first.times), '1'),
        cause: 'The condition of a loop inside a loop does not compare the rows of the two loops.',
        place,
        others: [],
        fixes: [],
      })
    }
    findings.push(...repeatedRows(facts, pages, (await facts.addresses()).known))
    return {
      findings,
      claim: isComplete
        ? {
            sentence: 'No list on a page that readers can reach from the home page has the same item twice',
            tested,
            things: ['page', 'pages'],
          }
        : null,
    }
  },
}

/** So many links with the title of the same post are no picture, title and “read on”. */
const MANY = 3

/** Finds pages that show several posts again and again, not in a list of HTML. */
function repeatedRows(
  facts: Facts,
  pages: readonly CrawledPage[],
  known: readonly KnownAddress[],
): RuleFinding[] {
  const posts = new Map(
    known.flatMap(({ path, title, route }) =>
      title !== null && isOfPost(facts, route) ? [[path, title]] : [],
    ),
  )
  return pages.flatMap(({ path, route, status, links }): RuleFinding[] => {
    if (status !== 200) return []
    const times = new Map<string, number>()
    /** Shown twice, one after the other. */
    const doubled = new Set<string>()
    let before = ''
    for (const { href, text } of links) {
      const target = pathOf(href, path) ?? ''
      if (posts.get(target) !== text.trim()) continue
      times.set(target, (times.get(target) ?? 0) + 1)
      if (target === before) doubled.add(target)
      before = target
    }
    const repeated = [...times].filter(([target, count]) => count >= MANY || doubled.has(target))
    const [first] = repeated
    if (!first || repeated.length < 2) return []
    const [target, count] = first
    const place = placeInTemplates(facts, route, /\{%-?\s*for\b/)
    return [
      {
        subject: `rows ${route ?? path}`,
        title: `${path} shows “${shorten(posts.get(target) ?? '', 60)}” ${count} times`,
        detail: `${counted(repeated.length, 'post')} of the page are repeated like this.`,
        affects: 'now',
        witness: witness(path, `Links to ${target} with its title`, String(count), '1'),
        cause:
          'A loop over the rows is inside another loop over them, or a partial is rendered for each row again.',
        place,
        others: [],
        fixes: [],
      },
    ]
  })
}
