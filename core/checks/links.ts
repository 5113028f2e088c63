/** Finds typed links that lead nowhere. Links are requested once; two rules report the result. */
import type { Definition } from '../blog/definition.ts'
import { isServed } from '../routing/addresses/served.ts'
import { matchRoute } from '../routing/addresses/match.ts'
import { AddressIndex } from '../routing/addresses/nearest.ts'
import type { Facts, KnownAddress, Link } from './facts.ts'
import { groupBy } from './group-by.ts'
import { counted, lineOf, placeText, saveFix, witness, type RuleFinding } from './rule.ts'

/** For how many findings a fix is computed. Further ones follow once these are fixed. */
const FIXED = 100
/** The maximum number of addresses that are requested. */
const REQUESTS = 2_000

export interface DeadLink {
  /** The first link to the address. */
  first: Link
  /** Whether a route matches the address and finds no row. */
  isMatched: boolean
  finding: RuleFinding
}

export interface DeadLinks {
  findings: DeadLink[]
  /** Dead links to rows that are elsewhere now, with their addresses: the route has moved, and one redirect helps. */
  moved: ReadonlyMap<string, { target: string; title: string; times: number }>
  /** How many different addresses are linked to. */
  count: number
  /** False if not every link was followed, or if something else that was found makes it dead. Then nothing is proven. */
  isComplete: boolean
}

const known = new WeakMap<Facts, Promise<DeadLinks>>()

/** Finds dead links, once per run. */
export function deadLinks(facts: Facts): Promise<DeadLinks> {
  let found = known.get(facts)
  if (!found) known.set(facts, (found = findDeadLinks(facts)))
  return found
}

async function findDeadLinks(facts: Facts): Promise<DeadLinks> {
  const byPath = groupLinks(facts.definition, await facts.links())
  const { known: addresses } = await facts.addresses()
  const hidden = new Map((await facts.hidden()).known.map((one) => [one.path, one.title]))
  const routeOf = new Map(addresses.map((one) => [one.path, one.route]))
  const near = new AddressIndex(addresses)
  const dead: { path: string; status: number; first: Link; uses: readonly Link[] }[] = []
  let requests = 0
  let skipped = 0
  for (const [path, uses] of byPath) {
    const route = routeOf.get(path)
    // An address that was built from a row by the route that matches it needs no request.
    if (route !== undefined && isMatchedBy(facts, path, route)) continue
    if (requests >= REQUESTS) {
      skipped++
      continue
    }
    requests++
    const status = await finalStatus(facts, path)
    const [first] = uses
    if (status < 300 || !first) continue
    // If another route answers it, that is a finding of its own.
    if (route !== undefined) skipped++
    else dead.push({ path, status, first, uses })
  }
  const moved = await movedLinks(facts, dead)
  const findings: DeadLink[] = []
  for (const { path, status, first, uses } of dead) {
    if (moved.has(path)) continue
    const index = findings.length < FIXED ? near : undefined
    findings.push({
      first,
      isMatched: matchRoute(facts.definition.table, 'GET', bare(path)).outcome === 'matched',
      finding: await describe(facts, { index, path, status, first, uses, hidden: hidden.get(path) }),
    })
  }
  return { findings, moved, isComplete: skipped === 0 && moved.size === 0, count: byPath.size }
}

/** From how many dead links under one path to rows under another on the route has moved, and it is no typing error. */
const MOVED = 3

/** Returns those dead links whose last segment is the slug of a row, if several lead from one path to another. */
async function movedLinks(
  facts: Facts,
  dead: readonly { path: string; uses: readonly Link[] }[],
): Promise<DeadLinks['moved']> {
  const slugOf = (path: string) => bare(path).split('/').at(-1) ?? ''
  const visible = await facts.visibleBySlug([...new Set(dead.map((one) => slugOf(one.path)))].filter(Boolean))
  const found = dead.flatMap(({ path, uses }) => {
    const row = visible.get(slugOf(path))
    return row && row.path !== bare(path)
      ? [{ path, target: row.path, title: row.title, times: uses.length }]
      : []
  })
  const folder = (path: string) => bare(path).slice(0, bare(path).lastIndexOf('/') + 1)
  const groups = groupBy(found, ({ path, target }) => `${folder(path)} ${folder(target)}`)
  return new Map(
    [...groups.values()]
      .filter((group) => group.length >= MOVED)
      .flat()
      .map(({ path, ...row }) => [path, row]),
  )
}

/** Groups links to pages of the blog by their address without the fragment identifier. */
export const groupLinks = (definition: Definition, links: readonly Link[]): Map<string, Link[]> =>
  groupBy(
    links.filter((one) => isPage(one.href, definition)),
    (one) => one.href.replace(/#.*$/s, ''),
  )

export const isInContent = (document: string) => document.startsWith('content/')

const bare = (path: string) => path.replace(/[?].*$/s, '').replace(/(.)\/$/, '$1')

/** Returns true for addresses that routes answer, as opposed to what is served before them. */
const isPage = (href: string, { routes }: Definition) =>
  /^\/(?!\/)/.test(href) &&
  !isServed(
    href.replace(/[?#].*$/s, ''),
    routes.some((one) => one.route.json === true),
  )

function isMatchedBy({ definition }: Facts, path: string, route: string): boolean {
  const match = matchRoute(definition.table, 'GET', bare(path))
  return match.outcome === 'matched' && match.route.route.name === route
}

/** How many redirects are followed. */
const HOPS = 5

/** Returns the status after redirects within the blog. */
export async function finalStatus(facts: Facts, path: string): Promise<number> {
  for (let hop = 0, at = path; ; hop++) {
    const { status, location } = await facts.request(at)
    if (status < 300 || status >= 400 || location === null) return status
    // Other sites are not requested.
    if (!location.startsWith('/')) return 200
    if (hop === HOPS) return status
    at = location.replace(/#.*$/s, '')
  }
}

/** Replaces a link in quotes, as in templates, or in parentheses, as in Markdown. */
export const withLink = (text: string, from: string, to: string) =>
  text
    .replaceAll(`"${from}"`, `"${to}"`)
    .replaceAll(`'${from}'`, `'${to}'`)
    .replaceAll(`(${from})`, `(${to})`)

interface Dead {
  index: AddressIndex<KnownAddress> | undefined
  path: string
  status: number
  first: Link
  uses: readonly Link[]
  /** The title of the unpublished post with this address. */
  hidden: string | null | undefined
}

async function describe(
  facts: Facts,
  { index, path, status, first, uses, hidden }: Dead,
): Promise<RuleFinding> {
  const [near] = index?.mostSimilar(path, 1) ?? []
  const text = index && (await facts.document(first.document))
  const fixed = near && text && withLink(text, first.href, near.path)
  const line = first.line ?? lineOf(text, first.href)
  const others = uses.length > 1 ? ` and in ${counted(uses.length - 1, 'more place')}` : ''
  const later = index ? '' : ` A fix is offered once fewer than ${FIXED} dead links are left.`
  return {
    subject: path,
    title: `A link in ${first.where} is dead`,
    detail: `${first.href} answers ${status}${hidden ? ` because “${hidden}” is not published` : ''}.${near ? ` The most similar address is ${near.path}.` : ''}`,
    affects: uses.some((one) => one.isPublic) ? 'now' : 'possibly',
    witness: witness(path, `Linked from ${placeText(first.document, line)}`, String(status), '200'),
    cause: `The link is typed in ${first.where}${others}.${later}`,
    place: { document: first.document, line },
    others: uses.slice(1).map((one) => placeText(one.document, one.line)),
    fixes: saveFix(
      first.document,
      fixed === '' || fixed === text ? undefined : fixed,
      `Link to ${near?.path ?? ''}`,
      `The link leads to ${near?.title ? `“${near.title}”` : (near?.path ?? '')}.`,
    ),
  }
}
