/** Finds links between the pages of a listing that are missing, lose a parameter, or lead in the wrong direction. */
import type { Facts } from '../facts.ts'
import { furtherPages, pagedPosts, type PagedPosts } from '../further-pages.ts'
import { ownPath, readPage } from '../read-page.ts'
import { witness, type Rule, type RuleFinding } from '../rule.ts'
import { queriesOf } from '../../shapes/route-data.ts'
import { templatePath } from '../../shapes/documents.ts'
import type { CompiledRoute } from '../../routing/addresses/compiled-route.ts'

/** Addresses of a route that are tried until one has a second page. */
const TRIED = 50

export const pagerWrong: Rule = {
  id: 'pager-wrong',
  area: 'templates',
  meaning:
    'The links to the other pages of a listing are missing, lose the search, or lead in the wrong direction.',
  why: 'Readers cannot reach the other pages, or get the pages of something else.',
  async run(facts) {
    const findings: RuleFinding[] = []
    let tested = 0
    for (const compiled of facts.definition.routes) {
      const report = (fault: PagerFault) => findings.push(describe(compiled, fault))
      const paged = pagedPosts(facts, compiled)
      for (const path of paged ? await furtherPages(facts, compiled, paged) : []) {
        tested++
        const fault = paged && (await faultOf(facts, path, paged.take))
        if (!fault) continue
        report(fault)
        break
      }
      for (const { path, parameter } of await secondPagesOf(facts, compiled)) {
        tested++
        const fault = await missingOn(facts, path, parameter)
        if (fault) report(fault)
      }
    }
    return {
      findings,
      claim: {
        sentence:
          'The tried pages of listings have links to the other pages, which keep their parameters and direction',
        tested,
        things: ['page', 'pages'],
      },
    }
  },
}

const faultOf = async (facts: Facts, path: string, take: PagedPosts['take']) =>
  (take.by === 'number' ? await missingOn(facts, path, take.parameter) : undefined) ??
  (await faultAt(facts, path, take))

/** Returns the fault of a listing without links to its other pages. @param path of a further page that exists */
async function missingOn(facts: Facts, path: string, parameter: string): Promise<PagerFault | undefined> {
  const url = new URL(path, 'http://blog.invalid')
  url.searchParams.delete(parameter)
  const first = url.pathname + url.search
  const { status, body } = await facts.request(first)
  if (status !== 200 || readPage(body).links.some(({ href }) => isFurther(href, first, parameter)))
    return undefined
  return {
    kind: 'missing',
    at: first,
    text: `No link leads to the second page, ${path}`,
    href: 'no link',
    expected: path,
  }
}

function isFurther(href: string, own: string, parameter: string): boolean {
  const target = ownPath(href, own)
  return (
    target !== undefined &&
    target.split('?')[0] === own.split('?')[0] &&
    new URLSearchParams(target.split('?')[1]).has(parameter)
  )
}

/** Returns second pages of the other paged lists of a route, such as comments: those with more rows than a page. */
async function secondPagesOf(
  facts: Facts,
  { route }: CompiledRoute,
): Promise<{ path: string; parameter: string }[]> {
  if (route.template === undefined) return []
  const found: { path: string; parameter: string }[] = []
  const { known } = await facts.addresses()
  const own = known.filter((one) => one.route === route.name).slice(0, TRIED)
  for (const query of queriesOf(route)) {
    const meaning = facts.definition.queries.get(query)
    if (meaning?.take.kind !== 'pages' || meaning.from === 'posts') continue
    const { size, parameter, by } = meaning.take
    if (by === 'cursor') continue
    for (const { path } of own) {
      const run = (await facts.queriesAt(path)).find((one) => one.query === query)
      if ((run?.total ?? 0) <= size) continue
      found.push({ path: `${path}?${parameter}=2`, parameter })
      break
    }
  }
  return found
}

const describe = ({ route }: CompiledRoute, { kind, at, text, href, expected }: PagerFault): RuleFinding => ({
  subject: `${route.name} ${kind}`,
  title: `${at}: ${text}`,
  detail: kind === 'missing' ? 'Readers cannot reach what is on the other pages.' : `The link is ${href}.`,
  affects: 'now',
  witness: witness(at, text, href, expected),
  cause:
    kind === 'missing'
      ? 'No template of the page prints links to the other pages of the list.'
      : 'Build these links with “url_with”, or with the addresses of the listing: paged.next.url.',
  place: { document: templatePath(route.template ?? ''), line: null },
  others: [],
  fixes: [],
})

interface PagerFault {
  kind: 'lost' | 'direction' | 'missing'
  /** The page. */
  at: string
  text: string
  href: string
  expected: string
}

async function faultAt(
  facts: Facts,
  path: string,
  { parameter, by }: PagedPosts['take'],
): Promise<PagerFault | undefined> {
  const { links } = readPage((await facts.request(path)).body)
  const own = new URL(path, 'http://blog.invalid')
  for (const { href, rel } of links) {
    const target = ownPath(href, path)
    if (target === undefined) continue
    const to = new URL(target, 'http://blog.invalid')
    const isPage = to.searchParams.has(parameter) || rel === 'prev' || rel === 'next'
    if (to.pathname !== own.pathname || !isPage) continue
    for (const [name, value] of own.searchParams)
      if (name !== parameter && to.searchParams.get(name) !== value)
        return {
          kind: 'lost',
          at: path,
          text: `A link to another page loses “${name}”`,
          href,
          expected: `${name}=${value} in the link`,
        }
    if (by === 'cursor') continue
    const page = Number(to.searchParams.get(parameter) ?? 1)
    if ((rel === 'next' && page <= 2) || (rel === 'prev' && page >= 2))
      return {
        kind: 'direction',
        at: path,
        text: `The link to the ${rel === 'next' ? 'next' : 'previous'} page leads to page ${page}`,
        href,
        expected: rel === 'next' ? 'page 3' : 'page 1',
      }
  }
  return undefined
}
