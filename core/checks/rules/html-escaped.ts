/** Finds pages that show tags of HTML as text. */
import { crawl } from '../crawl.ts'
import { groupBy } from '../group-by.ts'
import { routeOf, witness, type Rule } from '../rule.ts'
import { templatePath } from '../../shapes/documents.ts'

export const htmlEscaped: Rule = {
  id: 'html-escaped',
  area: 'templates',
  meaning: 'A page shows tags such as <p> to readers.',
  why: 'HTML that passes through a filter for text is cut or escaped, and its tags become visible.',
  async run(facts) {
    const { pages, isComplete } = await crawl(facts)
    const found = pages.filter((one) => one.status === 200 && one.escaped.length > 0)
    const byRoute = groupBy(found, (one) => one.route ?? one.path)
    return {
      findings: [...byRoute].flatMap(([route, [first, ...others]]) => {
        const template = routeOf(facts, route)?.route.template
        const shown = first?.escaped[0] ?? ''
        return first
          ? [
              {
                subject: route,
                title: `${first.path} shows HTML as text`,
                detail: `It shows: ${shown}`,
                affects: 'now' as const,
                witness: witness(first.path, `The page shows ${shown}`, shown, 'text without tags'),
                cause:
                  'HTML was changed by a filter for text, or is not HTML for templates. Print it without a filter.',
                place: template === undefined ? null : { document: templatePath(template), line: null },
                others: others.map((one) => one.path),
                fixes: [],
              },
            ]
          : []
      }),
      claim: isComplete
        ? {
            sentence: 'No page that readers can reach from the home page shows HTML as text',
            tested: pages.length,
            things: ['page', 'pages'],
          }
        : null,
    }
  },
}
