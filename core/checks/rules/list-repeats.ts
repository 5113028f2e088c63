/** Finds lists that have the same item several times. */
import { shorten } from '../../content/text.ts'
import { crawl } from '../crawl.ts'
import { literally, placeInTemplates } from '../page-place.ts'
import { ownPath } from '../read-page.ts'
import { counted, routeOf, witness, type Rule, type RuleFinding } from '../rule.ts'
import { templatePath } from '../../shapes/documents.ts'

export const listRepeats: Rule = {
  id: 'list-repeats',
  area: 'templates',
  meaning: 'A list on a page has the same item with a link several times.',
  why: 'A loop inside a loop lacks its condition, or a query returns a row for each of its related rows.',
  async run(facts) {
    const { pages, isComplete } = await crawl(facts)
    const findings = new Map<string, RuleFinding>()
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
      if (findings.has(subject)) continue
      findings.set(subject, {
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
    return {
      findings: [...findings.values()],
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
