/** Links typed by hand that lead nowhere: asked of the blog once, told by two rules. */
import { matchRoute } from '../routing/addresses/match.ts'
import { AddressIndex } from '../routing/addresses/nearest.ts'
import type { Facts, KnownAddress, Link } from './facts.ts'
import type { Finding } from './finding.ts'
import { witness } from './rule.ts'

/** Findings for which a mend is worked out; with more, it is worked out once some are mended. */
const MENDED = 100
/** Different addresses asked at most; the sentence says when there were more. */
const ASKED = 2_000

export interface DeadLink {
  /** The first link that leads there. */
  first: Link
  /** True when a route takes the address and finds nothing for it. */
  isMatched: boolean
  finding: Omit<Finding, 'rule'>
}

export interface DeadLinks {
  findings: DeadLink[]
  /** Different addresses that are linked to. */
  count: number
  /** In words; says when not all were asked. */
  counted: string
}

const known = new WeakMap<Facts, Promise<DeadLinks>>()

/** Found once a run. */
export function deadLinks(facts: Facts): Promise<DeadLinks> {
  let found = known.get(facts)
  if (!found) known.set(facts, (found = findDeadLinks(facts)))
  return found
}

async function findDeadLinks(facts: Facts): Promise<DeadLinks> {
  const byPath = groupLinks(await facts.links())
  const { known: addresses } = await facts.addresses()
  const hidden = new Map((await facts.hidden()).map((one) => [one.path, one.title]))
  const routeOf = new Map(addresses.map((one) => [one.path, one.route]))
  const near = new AddressIndex(addresses)
  const findings: DeadLink[] = []
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
    const index = findings.length < MENDED ? near : undefined
    findings.push({
      first,
      isMatched: matchRoute(facts.definition.table, 'GET', bare(path)).outcome === 'matched',
      finding: await describe(facts, index, path, status, first, uses, hidden.get(path)),
    })
  }
  const counted = passed > 0 ? `${byPath.size - passed} of ${byPath.size} links` : `${byPath.size} links`
  return { findings, count: byPath.size, counted }
}

/** Links to pages of the blog, by their path without what is behind “#”. */
export function groupLinks(links: readonly Link[]): Map<string, Link[]> {
  return groupBy(
    links.filter((one) => isPage(one.href)),
    (one) => one.href.replace(/#.*$/s, ''),
  )
}

/** By a key, in the order in which they come. */
export function groupBy<T>(items: Iterable<T>, keyOf: (item: T) => string): Map<string, T[]> {
  const groups = new Map<string, T[]>()
  for (const item of items) {
    const key = keyOf(item)
    const known = groups.get(key)
    if (known) known.push(item)
    else groups.set(key, [item])
  }
  return groups
}

export const isInContent = (document: string) => document.startsWith('content/')

/** What is served beside the routes has names that the definition and the images know. */
const bare = (path: string) => path.replace(/[?].*$/s, '').replace(/(.)\/$/, '$1')

const isPage = (href: string) =>
  /^\/(?!\/)/.test(href) && !/^\/(?:assets|fonts|media)\//.test(href) && href !== '/healthz'

function isAnswered({ definition }: Facts, path: string, route: string | undefined): boolean {
  if (route === undefined) return false
  const match = matchRoute(definition.table, 'GET', bare(path))
  return match.outcome === 'matched' && match.route.route.name === route
}

/** Redirects that are followed before a link is said to lead nowhere. */
const HOPS = 5

async function finalStatus(facts: Facts, path: string): Promise<number> {
  for (let hop = 0, at = path; ; hop++) {
    const { status, location } = await facts.ask(at)
    if (status < 300 || status >= 400 || !location?.startsWith('/') || hop === HOPS) return status
    at = location.replace(/#.*$/s, '')
  }
}

/** The link as templates and Markdown write it: in quotes, or in parentheses. */
export const withLink = (text: string, from: string, to: string) =>
  text
    .replaceAll(`"${from}"`, `"${to}"`)
    .replaceAll(`'${from}'`, `'${to}'`)
    .replaceAll(`(${from})`, `(${to})`)

async function describe(
  facts: Facts,
  index: AddressIndex<KnownAddress> | undefined,
  path: string,
  status: number,
  first: Link,
  uses: readonly Link[],
  hidden: string | null | undefined,
): Promise<Omit<Finding, 'rule'>> {
  const [near] = index?.mostAlike(path, 1) ?? []
  const text = index && (await facts.document(first.document))
  const mended = near && text && withLink(text, first.href, near.path)
  const at = text?.indexOf(first.href) ?? -1
  const line = first.line ?? (text === undefined || at === -1 ? null : text.slice(0, at).split('\n').length)
  return {
    subject: path,
    title: `A link in ${first.where} leads nowhere`,
    detail: `${first.href} answers ${status}${hidden ? `: “${hidden}” is not published` : ''}.${near ? ` Nearest: ${near.path}.` : ''}`,
    affects: uses.some((one) => one.isPublic) ? 'now' : 'possibly',
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
