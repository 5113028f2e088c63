/** A link, typed by hand in a template, a post or a page, that no route answers. */
import type { Link } from '../facts.ts'
import { deadLinks, isInContent } from '../links.ts'
import type { Rule } from '../rule.ts'

export const linkUnmatched: Rule = {
  id: 'link-unmatched',
  area: 'routing',
  meaning: 'A literal link in a template, a post or a page leads to an address that nothing answers.',
  why: 'Links that are built from a route’s name follow it; a typed one stays behind when a pattern or a slug changes.',
  async run(facts) {
    const dead = await deadLinks(facts)
    // A text’s link that a route takes, and finds nothing for, is the text’s fault: see `internal-link-dead`.
    const own = ({ document }: Link, isMatched: boolean) => !isInContent(document) || !isMatched
    return {
      findings: dead.findings.filter((one) => own(one.first, one.isMatched)).map((one) => one.finding),
      proven: dead.count > 0 ? { sentence: 'Every typed link is answered', count: dead.counted } : null,
    }
  },
}
