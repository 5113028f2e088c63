/** Finds navigations that mark several links as the current page. */
import { crawl } from '../crawl.ts'
import { placeInTemplates } from '../page-place.ts'
import { ownPath } from '../read-page.ts'
import { counted, witness, type Rule, type RuleFinding } from '../rule.ts'

export const currentWrong: Rule = {
  id: 'current-wrong',
  area: 'templates',
  meaning: 'A page marks links to several pages as the current one.',
  why: 'Screen readers say “current page” at each of them, and styles highlight all.',
  async run(facts) {
    const { pages, isComplete } = await crawl(facts)
    const findings = new Map<string, RuleFinding>()
    let tested = 0
    for (const { path, route, links } of pages) {
      const marked = links.filter((one) => one.current === 'page')
      if (marked.length === 0) continue
      tested++
      const targets = [...new Set(marked.flatMap((one) => ownPath(one.href, path) ?? []))]
      if (targets.length < 2) continue
      const place = placeInTemplates(facts, route, /aria-current="page"/)
      const subject = place ? `${place.document}:${place.line ?? ''}` : (route ?? path)
      if (findings.has(subject)) continue
      findings.set(subject, {
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
    return {
      findings: [...findings.values()],
      claim: isComplete
        ? {
            sentence: 'No page marks links to several pages as the current one',
            tested,
            things: ['page with a mark', 'pages with a mark'],
          }
        : null,
    }
  },
}
