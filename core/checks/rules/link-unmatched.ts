/** Finds links, typed in a template, post or page, that lead nowhere. */
import type { Link } from '../facts.ts'
import { deadLinks, isInContent } from '../links.ts'
import type { Rule } from '../rule.ts'

export const linkUnmatched: Rule = {
  id: 'link-unmatched',
  area: 'routing',
  meaning: 'A link that is typed in a template, post or page is dead.',
  why: 'A link that is built from a route’s name follows the route. A typed one does not when a path or a slug changes.',
  async run(facts) {
    const dead = await deadLinks(facts)
    // If a route matches a text's link and finds no row, the rule `internal-link-dead` reports it.
    const isOwn = ({ document }: Link, isMatched: boolean) => !isInContent(document) || !isMatched
    return {
      findings: dead.findings.filter((one) => isOwn(one.first, one.isMatched)).map((one) => one.finding),
      // Dead links that the other rule reports disprove this, too.
      claim:
        dead.isComplete && dead.findings.length === 0
          ? { sentence: 'Every typed link leads to a page', tested: dead.count, things: ['link', 'links'] }
          : null,
    }
  },
}
