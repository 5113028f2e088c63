/** Finds pages without a main heading, and those whose main content is hidden. */
import { crawl } from '../crawl.ts'
import { placeInTemplates } from '../page-place.ts'
import { readPage } from '../page/read-page.ts'
import { NOWHERE } from '../sample-pages.ts'
import { routeOf, witness, type Rule, type RuleFinding } from '../rule.ts'
import { templatePath } from '../../shapes/documents.ts'

export const headingMissing: Rule = {
  id: 'heading-missing',
  area: 'templates',
  meaning: 'A page has no heading of level 1, or its main content is hidden by an attribute.',
  why: 'Screen readers offer headings to find the content, search engines read this one as the title of the page, and nobody sees what is hidden.',
  async run(facts) {
    const { pages } = await crawl(facts)
    const shown = pages.filter(
      (one) => one.status === 200 && routeOf(facts, one.route ?? '')?.route.template !== undefined,
    )
    const findings: RuleFinding[] = []
    for (const { path, route, elements } of shown)
      if (!elements.has('h1'))
        findings.push(
          finding(path, route ?? path, placeInTemplates(facts, route, /\{%-?\s*block\s+main\b|<main\b/)),
        )
    for (const { path, route, hidden } of shown)
      for (const { name, attribute } of hidden)
        findings.push({
          subject: `${attribute} ${name} ${route ?? path}`,
          title: `${path} has <${name} ${attribute}>`,
          detail: attribute === 'hidden' ? 'Nobody sees what is in it.' : 'Nobody can use what is in it.',
          affects: 'now',
          witness: witness(path, `<${name}> on ${path}`, attribute, `no “${attribute}”`),
          cause: `A template prints the attribute “${attribute}”.`,
          place: placeInTemplates(facts, route, new RegExp(`<${name}\\b[^>]*\\b${attribute}\\b`)),
          others: [],
          fixes: [],
        })
    const rule = facts.definition.settings['not-found']
    if (rule && !readPage((await facts.page(NOWHERE)).body).elements.has('h1'))
      findings.push(
        finding(NOWHERE, 'not found', { document: templatePath(rule.template), line: null }, 'The 404 page'),
      )
    return {
      findings,
      claim: {
        sentence: 'Every visited page has a heading of level 1, and no attribute hides its main content',
        tested: shown.length + (rule ? 1 : 0),
        things: ['page', 'pages'],
      },
    }
  },
}

const finding = (path: string, subject: string, place: RuleFinding['place'], what = path): RuleFinding => ({
  subject,
  title: `${what} has no main heading`,
  detail: 'It has no <h1>.',
  affects: 'now',
  witness: witness(path, `The headings of ${path}`, 'no <h1>', 'one <h1>'),
  cause: 'The template prints the title of the page in another element, or not at all.',
  place,
  others: [],
  fixes: [],
})
