/** A link in a post or page to something of this blog that is not there: no such row, or no such place on its page. */
import { AddressIndex } from '../../routing/addresses/nearest.ts'
import type { Facts, Link } from '../facts.ts'
import type { Finding } from '../finding.ts'
import { deadLinks, groupBy, groupLinks, isInContent, withLink } from '../links.ts'
import { witness, type Rule } from '../rule.ts'

/** Pages whose places are looked at. */
const PAGES = 1_000

export const internalLinkDead: Rule = {
  id: 'internal-link-dead',
  area: 'content',
  meaning: 'A link in a post or page leads to a post, page or heading of this blog that is not there.',
  why: 'A text outlives what it links to: a post is taken back, a heading is worded anew.',
  async run(facts) {
    const dead = await deadLinks(facts)
    const gone = dead.findings.filter((one) => isInContent(one.first.document) && one.isMatched)
    const places = await deadPlaces(facts, new Set(dead.findings.map((one) => one.finding.subject)))
    const links = (await facts.links()).filter((one) => isInContent(one.document)).length
    return {
      findings: [...gone.map((one) => one.finding), ...places],
      proven:
        links > 0 ? { sentence: 'What posts and pages link to is there', count: `${links} links` } : null,
    }
  },
}

/** Links to a place of a page, `#h-…`, that the page does not have. */
async function deadPlaces(facts: Facts, dead: ReadonlySet<string>): Promise<Omit<Finding, 'rule'>[]> {
  const links = (await facts.links()).filter((one) => isInContent(one.document) && /#./.test(one.href))
  const findings: Omit<Finding, 'rule'>[] = []
  let pages = 0
  for (const [path, uses] of groupLinks(links)) {
    if (dead.has(path) || ++pages > PAGES) continue
    const { status, body } = await facts.ask(path)
    if (status !== 200) continue
    const ids = new Set([...body.matchAll(/\bid="([^"]+)"/g)].map((found) => found[1] ?? ''))
    for (const [href, same] of groupBy(uses, (one) => one.href)) {
      const id = decode(href.slice(href.indexOf('#') + 1))
      if (ids.has(id)) continue
      findings.push(await finding(facts, { path, href, id, uses: same, ids }))
    }
  }
  return findings
}

function decode(text: string): string {
  try {
    return decodeURIComponent(text)
  } catch {
    return text
  }
}

interface Place {
  path: string
  href: string
  id: string
  uses: readonly Link[]
  ids: ReadonlySet<string>
}

async function finding(facts: Facts, { path, href, id, uses, ids }: Place): Promise<Omit<Finding, 'rule'>> {
  const [first, ...others] = uses
  const document = first?.document ?? ''
  const text = await facts.document(document)
  const at = text?.indexOf(href) ?? -1
  const line = text === undefined || at === -1 ? null : text.slice(0, at).split('\n').length
  const headings = [...ids].filter((one) => one.startsWith('h-'))
  const [near] = new AddressIndex(headings.map((one) => ({ path: one }))).mostAlike(id, 1)
  const change = (label: string, to: string, after: string) => {
    const changed = text === undefined ? undefined : withLink(text, href, to)
    return changed === undefined || changed === text
      ? []
      : [{ label, changes: [{ document, text: changed }], slug: null, after }]
  }
  return {
    subject: `${document} ${href}`,
    title: `A link in ${first?.where ?? 'a text'} leads to a place that its page does not have`,
    detail: `${path} is there, and has no “#${id}”.`,
    affects: uses.some((one) => one.isPublic) ? 'now' : 'possibly',
    witness: witness(
      path,
      `linked as ${href} from ${document}${line === null ? '' : `:${line}`}`,
      'the top of the page',
      `#${id}`,
    ),
    because:
      headings.length === 0
        ? 'The page has no headings to lead to.'
        : `The page has ${headings
            .map((one) => `#${one}`)
            .slice(0, 6)
            .join(', ')}${headings.length > 6 ? ' and more' : ''}.`,
    place: { document, line },
    also: others.map((one) => one.document),
    mends: [
      ...(near
        ? change(`Lead it to #${near.path}`, `${path}#${near.path}`, `The link leads to #${near.path}.`)
        : []),
      ...change('Lead it to the page', path, 'The link leads to the top of the page, and says so.'),
    ],
  }
}
