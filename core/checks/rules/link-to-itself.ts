/** Finds links in the content of pages that lead to the page itself. */
import { crawl } from '../crawl.ts'
import { literally, placeInTemplates } from '../page-place.ts'
import { ownPath, withoutQuery } from '../page/addresses.ts'
import { routeOf, witness, type Rule, type RuleFinding } from '../rule.ts'

export const linkToItself: Rule = {
  id: 'link-to-itself',
  area: 'templates',
  meaning: 'A link in the content of a page leads to the page itself.',
  why: 'Readers expect another page, and stay where they are.',
  async run(facts) {
    const { pages } = await crawl(facts)
    const titles = new Map((await facts.addresses()).known.map((one) => [one.path, one.title]))
    const findings: RuleFinding[] = []
    let tested = 0
    for (const { path, route, status, links, head } of pages) {
      // The page of a search may offer to begin again.
      if (status !== 200 || routeOf(facts, route ?? '')?.route.query !== undefined) continue
      for (const { href, text, current, isInMain } of links) {
        if (!isInMain || current !== '' || href.includes('#')) continue
        tested++
        const shown = text.trim()
        // A card may link to the category that it is shown in.
        const isNamed = shown === head.heading.trim() || shown === titles.get(withoutQuery(path))
        if (shown === '' || isNamed || ownPath(href, path) !== path) continue
        findings.push({
          subject: `${route ?? path} ${shown}`,
          title: `On ${path}, the link “${shown}” leads to the page itself`,
          detail: 'Links to a place on the page have a “#”.',
          affects: 'now',
          witness: witness(path, `“${shown}” leads to ${path}`, path, 'another page'),
          cause: 'The template builds the address from the wrong route or value.',
          place: placeInTemplates(facts, route, literally(`>${shown}</a>`)),
          others: [],
          fixes: [],
        })
      }
    }
    return {
      findings,
      claim: {
        sentence: 'No link in the content of visited pages leads to the page itself',
        tested,
        things: ['link', 'links'],
      },
    }
  },
}
