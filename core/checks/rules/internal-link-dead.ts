/** Finds links in posts and pages to a row, or to a heading, that does not exist. */
import { AddressIndex } from '../../routing/addresses/nearest.ts'
import type { Facts, Link } from '../facts.ts'
import { groupBy } from '../group-by.ts'
import { deadLinks, groupLinks, isInContent, withLink } from '../links.ts'
import { lineOf, placeText, saveFix, witness, type Rule, type RuleFinding } from '../rule.ts'

/** The maximum number of pages whose headings are checked. */
const PAGES = 1_000

export const internalLinkDead: Rule = {
  id: 'internal-link-dead',
  area: 'content',
  meaning: 'A link in a post or page leads to a post, page or heading of this blog that does not exist.',
  why: 'Posts are unpublished and headings are reworded after other texts have linked to them.',
  async run(facts) {
    const dead = await deadLinks(facts)
    const inContent = dead.findings.filter((one) => isInContent(one.first.document))
    const missing = inContent.filter((one) => one.isMatched)
    const anchors = await deadAnchors(
      facts,
      new Set([...dead.findings.map((one) => one.finding.subject), ...dead.moved.keys()]),
    )
    const links = (await facts.links()).filter((one) => isInContent(one.document)).length
    return {
      findings: [...missing.map((one) => one.finding), ...anchors.findings],
      // Dead links that the other rule reports disprove this, too.
      claim:
        inContent.length === 0 && dead.isComplete && anchors.isComplete
          ? {
              sentence: 'Every link in posts and pages has a target',
              tested: links,
              things: ['link', 'links'],
            }
          : null,
    }
  },
}

/** Finds links to an id (`#h-…`) that the page does not have. `isComplete` is false if a page could not be read. */
async function deadAnchors(
  facts: Facts,
  dead: ReadonlySet<string>,
): Promise<{ findings: RuleFinding[]; isComplete: boolean }> {
  const links = (await facts.links()).filter((one) => isInContent(one.document) && /#./.test(one.href))
  const findings: RuleFinding[] = []
  let pages = 0
  let isComplete = true
  for (const [path, uses] of groupLinks(facts.definition, links)) {
    if (dead.has(path)) continue
    const page = ++pages > PAGES ? undefined : await facts.request(path)
    if (page?.status !== 200) {
      isComplete = false
      continue
    }
    const { body } = page
    const ids = new Set([...body.matchAll(/\bid="([^"]+)"/g)].map((found) => found[1] ?? ''))
    for (const [href, same] of groupBy(uses, (one) => one.href)) {
      const id = decode(href.slice(href.indexOf('#') + 1))
      if (ids.has(id)) continue
      findings.push(await describe(facts, { path, href, id, uses: same, ids }))
    }
  }
  return { findings, isComplete }
}

function decode(text: string): string {
  try {
    return decodeURIComponent(text)
  } catch {
    return text
  }
}

interface DeadAnchor {
  path: string
  href: string
  id: string
  uses: readonly Link[]
  ids: ReadonlySet<string>
}

/** How many headings a finding lists. */
const LISTED = 6

async function describe(facts: Facts, { path, href, id, uses, ids }: DeadAnchor): Promise<RuleFinding> {
  const [first, ...others] = uses
  const document = first?.document ?? ''
  const text = await facts.document(document)
  const line = lineOf(text, href)
  const headings = [...ids].filter((one) => one.startsWith('h-'))
  const [near] = new AddressIndex(headings.map((one) => ({ path: one }))).mostSimilar(id, 1)
  const fix = (label: string, to: string, after: string) => {
    const fixed = text === undefined ? undefined : withLink(text, href, to)
    return saveFix(document, fixed === text ? undefined : fixed, label, after)
  }
  const listed = headings
    .slice(0, LISTED)
    .map((one) => `#${one}`)
    .join(', ')
  return {
    subject: `${document} ${href}`,
    title: `A link in ${first?.where ?? 'a text'} leads to a heading that its page does not have`,
    detail: `${path} exists but has no “#${id}”.`,
    affects: uses.some((one) => one.isPublic) ? 'now' : 'possibly',
    witness: witness(
      path,
      `Linked as ${href} from ${placeText(document, line)}`,
      'the top of the page',
      `#${id}`,
    ),
    cause:
      headings.length === 0
        ? 'The page has no headings.'
        : `The page has ${listed}${headings.length > LISTED ? ' and more' : ''}.`,
    place: { document, line },
    others: others.map((one) => one.document),
    fixes: [
      ...(near
        ? fix(`Link to #${near.path}`, `${path}#${near.path}`, `The link leads to the heading #${near.path}.`)
        : []),
      ...fix('Link to the page', path, 'The link leads to the top of the page.'),
    ],
  }
}
