/** A link, typed by hand in a template, a post or a page, that leads nowhere. */
import { matchRoute } from '../../routing/match.ts'
import { AddressIndex } from '../../routing/nearest.ts'
import type { Facts, KnownAddress, Link } from '../facts.ts'
import { witness, type Rule } from '../rule.ts'

/** Findings for which a mend is worked out; with more, it is worked out once some are mended. */
const MENDED = 100
/** Different addresses asked at most; the sentence says when there were more. */
const ASKED = 2_000

export const linkUnmatched: Rule = {
  id: 'link-unmatched',
  area: 'routing',
  meaning: 'A literal link in a template, a post or a page leads to an address that nothing answers.',
  why: 'Links that are built from a route’s name follow it; a typed one stays behind when a pattern or a slug changes.',
  async run(facts) {
    const links = (await facts.links()).filter((one) => isPage(one.href))
    const byPath = new Map<string, Link[]>()
    for (const link of links) {
      const path = link.href.replace(/#.*$/s, '')
      byPath.set(path, [...(byPath.get(path) ?? []), link])
    }
    const { known } = await facts.addresses()
    const routeOf = new Map(known.map((one) => [one.path, one.route]))
    const near = new AddressIndex(known)
    const findings = []
    let asked = 0
    let passed = 0
    for (const [path, uses] of byPath) {
      // An address that its own route answers needs no asking: it was made of a row that is there.
      if (isAnswered(facts, path, routeOf.get(path))) continue
      if (asked >= ASKED) {
        passed++
        continue
      }
      asked++
      const status = await finalStatus(facts, path)
      const [first] = uses
      if (status < 400 || !first) continue
      findings.push(
        await finding(facts, findings.length < MENDED ? near : undefined, path, status, first, uses),
      )
    }
    const counted = passed > 0 ? `${byPath.size - passed} of ${byPath.size} links` : `${byPath.size} links`
    return {
      findings,
      proven: byPath.size > 0 ? { sentence: 'Every typed link is answered', count: counted } : null,
    }
  },
}

/** What is served beside the routes has names that the definition and the images know. */
const isPage = (href: string) =>
  /^\/(?!\/)/.test(href) && !/^\/(?:assets|fonts|media)\//.test(href) && href !== '/healthz'

function isAnswered({ definition }: Facts, path: string, route: string | undefined): boolean {
  if (route === undefined) return false
  const match = matchRoute(definition.table, 'GET', path.replace(/(.)\/$/, '$1'))
  return match.outcome === 'matched' && match.route.route.name === route
}

async function finalStatus(facts: Facts, path: string): Promise<number> {
  const { status, location } = await facts.ask(path)
  if (status < 300 || status >= 400 || !location?.startsWith('/')) return status
  return (await facts.ask(location.replace(/#.*$/s, ''))).status
}

/** The link as templates and Markdown write it: in quotes, or in parentheses. */
const withLink = (text: string, from: string, to: string) =>
  text
    .replaceAll(`"${from}"`, `"${to}"`)
    .replaceAll(`'${from}'`, `'${to}'`)
    .replaceAll(`(${from})`, `(${to})`)

async function finding(
  facts: Facts,
  index: AddressIndex<KnownAddress> | undefined,
  path: string,
  status: number,
  first: Link,
  uses: readonly Link[],
) {
  const [near] = index?.mostAlike(path, 1) ?? []
  const text = index && (await facts.document(first.document))
  const mended = near && text && withLink(text, first.href, near.path)
  const at = text?.indexOf(first.href) ?? -1
  const line = first.line ?? (text === undefined || at === -1 ? null : text.slice(0, at).split('\n').length)
  return {
    subject: path,
    title: `A link in ${first.where} leads nowhere`,
    detail: `${first.href} answers ${status}.${near ? ` Nearest: ${near.path}.` : ''}`,
    affects: 'now' as const,
    witness: witness(
      path,
      `linked from ${first.document}${line === null ? '' : `:${line}`}`,
      String(status),
      '200',
    ),
    because: `It is typed by hand in ${first.where}${uses.length > 1 ? ` and in ${uses.length - 1} more places` : ''}.${index ? '' : ` A mend is worked out when fewer than ${MENDED} are left.`}`,
    place: { document: first.document, line },
    also: uses.slice(1).map((one) => `${one.document}${one.line === null ? '' : `:${one.line}`}`),
    mends:
      near && text !== undefined && mended !== undefined && mended !== text
        ? [
            {
              label: `Lead it to ${near.path}`,
              changes: [{ document: first.document, text: mended }],
              slug: null,
              after: `The link leads to ${near.title === null ? near.path : `“${near.title}”`}.`,
            },
          ]
        : [],
  }
}
