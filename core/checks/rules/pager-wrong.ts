/** Finds links between the pages of a listing that are missing, lose a parameter, or lead in the wrong direction. */
import type { Facts } from '../facts.ts'
import { furtherPages, pagedPosts, type PagedPosts } from '../further-pages.ts'
import { groupBy } from '../group-by.ts'
import { placeInTemplates } from '../page-place.ts'
import { pagersOf } from '../pager.ts'
import { ownPath } from '../page/addresses.ts'
import { readPage } from '../page/read-page.ts'
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
    'The links to the other pages of a listing are missing, lose the search, or lead in the wrong direction, or do not tell which page is shown.',
  why: 'Readers cannot reach the other pages, get the pages of something else, or do not know where they are.',
  async run(facts) {
    const findings: RuleFinding[] = []
    let tested = 0
    for (const compiled of facts.definition.routes) {
      const report = (fault: PagerFault) => findings.push(describe(facts, compiled, fault))
      const paged = pagedPosts(facts, compiled)
      for (const path of paged ? await furtherPages(facts, compiled, paged) : []) {
        tested++
        const faults = paged ? await faultsOf(facts, path, paged) : []
        faults.forEach(report)
        if (faults.length > 0) break
      }
      const cursor = paged?.take.by === 'cursor' ? await cutAtCursor(facts, compiled, paged) : undefined
      if (cursor) report(cursor)
      for (const { path, parameter } of await secondPagesOf(facts, compiled)) {
        tested++
        const fault = await missingOn(facts, path, parameter)
        if (fault) report(fault)
      }
    }
    return {
      findings: [...groupBy(findings, (one) => one.subject).values()].flatMap(([first, ...others]) =>
        first ? [{ ...first, others: others.flatMap((one) => one.witness.address ?? []) }] : [],
      ),
      claim: {
        sentence:
          'The tried pages of listings have links to the other pages, which keep their parameters and direction, and tell which page is shown',
        tested,
        things: ['page', 'pages'],
      },
    }
  },
}

async function faultsOf(facts: Facts, path: string, { query, take }: PagedPosts): Promise<PagerFault[]> {
  const ofLinks =
    (take.by === 'number' ? await missingOn(facts, path, take.parameter) : undefined) ??
    (await faultAt(facts, path, take))
  return [
    ...(ofLinks ? [ofLinks] : []),
    ...(take.by === 'number' ? await wordsAt(facts, path, query, take) : []),
  ]
}

/** Returns what the navigation of a page says wrongly about it, or does not say. */
async function wordsAt(
  facts: Facts,
  path: string,
  query: string,
  { parameter, size }: PagedPosts['take'],
): Promise<PagerFault[]> {
  const page = Number(new URL(path, 'http://blog.invalid').searchParams.get(parameter) ?? 1)
  const run = (await facts.queriesAt(path)).find((one) => one.query === query)
  return pagersOf((await facts.request(path)).body, path, parameter).flatMap(
    ({ numbers, misnumbered: [wrongNumber], sameName, isMarked, marked, said }) => {
      const faults: PagerFault[] = []
      if (marked !== undefined && marked !== page)
        faults.push({
          kind: 'marked',
          at: path,
          text: `Page ${marked} is marked as the current page, which is ${page}`,
          href: String(marked),
          expected: String(page),
        })
      if (wrongNumber)
        faults.push({
          kind: 'number',
          at: path,
          text: `The link “${wrongNumber.text}” leads to page ${wrongNumber.page}`,
          href: wrongNumber.text,
          expected: String(wrongNumber.page),
        })
      if (numbers.length > 1 && !isMarked)
        faults.push({
          kind: 'unmarked',
          at: path,
          text: `The current page, ${page}, is not marked among the page numbers`,
          href: 'no aria-current',
          expected: 'aria-current="page"',
        })
      if (sameName && !wrongNumber)
        faults.push({
          kind: 'name',
          at: path,
          text: `Links to the pages ${sameName.pages.join(', ')} are all called “${sameName.name}”`,
          href: sameName.name,
          expected: 'a name for each page',
        })
      const [last, before] = [numbers.at(-1) ?? 0, numbers[0] ?? 0]
      if (
        numbers.length > 2 &&
        last < before &&
        numbers.every((one, index) => one < (numbers[index - 1] ?? Infinity))
      )
        faults.push({
          kind: 'reversed',
          at: path,
          text: 'The page numbers are in reverse order',
          href: numbers.join(', '),
          expected: numbers.toReversed().join(', '),
        })
      const first = (page - 1) * size + 1
      const range = [first, first + (run?.rows ?? 0) - 1, run?.total ?? NaN]
      // Two of three numbers that are right tell that the third one is meant to be.
      const wrong = said.length === 3 ? range.filter((one, index) => one !== said[index]) : []
      if (wrong.length === 1 && !wrong.some(Number.isNaN))
        faults.push({
          kind: 'range',
          at: path,
          text: `The page says ${said.join(', ')}, and shows rows ${range[0]} to ${range[1]} of ${range[2]}`,
          href: said.join(', '),
          expected: range.join(', '),
        })
      return faults
    },
  )
}

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

/** Returns the fault of a list by cursor whose first page has no link to the next one. */
async function cutAtCursor(
  facts: Facts,
  { route }: CompiledRoute,
  { query, meaning, take: { parameter } }: PagedPosts,
): Promise<PagerFault | undefined> {
  const { known } = await facts.addresses()
  // A list by cursor need not be counted.
  const isWhole = meaning.conditions.length + meaning.groups.length === 0
  const published = (await facts.slugged()).all.filter((one) => one.kind === 'post' && one.isPublic).length
  for (const { path } of known.filter((one) => one.route === route.name).slice(0, TRIED)) {
    const run = (await facts.queriesAt(path)).find((one) => one.query === query)
    const total = run?.total ?? (isWhole ? published : 0)
    if (!run || total <= run.rows) continue
    const { links } = readPage((await facts.request(path)).body)
    const isLinked = links.some(({ href }) =>
      new URLSearchParams(ownPath(href, path)?.split('?')[1]).has(parameter),
    )
    if (isLinked) return undefined
    return {
      kind: 'missing',
      at: path,
      text: `No link leads to the other ${total - run.rows} rows of the list`,
      href: 'no link',
      expected: `a link with ${parameter}=…`,
    }
  }
  return undefined
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

type Kind =
  'lost' | 'direction' | 'missing' | 'unmarked' | 'marked' | 'range' | 'number' | 'name' | 'reversed'

const ofLink = (href: string) => `The link is ${href}.`
const DETAIL: Readonly<Record<Kind, (href: string) => string>> = {
  lost: ofLink,
  direction: ofLink,
  missing: () => 'Readers cannot reach what is on the other pages.',
  unmarked: () => 'Screen readers read the page numbers without telling which page is shown.',
  marked: () => 'Readers do not know which page they are on.',
  range: () => 'The numbers are not those of the rows on the page.',
  name: () => 'Screen readers list links by their names, and these cannot be told apart.',
  number: () => 'The text of the link is the number of another page.',
  reversed: () => 'Readers expect the first page first.',
}
const BUILD = 'Build these links with “url_with”, or with the addresses of the listing: paged.next.url.'
const CAUSE: Readonly<Record<Kind, string>> = {
  lost: BUILD,
  direction: BUILD,
  missing: 'No template of the page prints links to the other pages of the list.',
  unmarked: 'Print the current page with aria-current="page": “current” is true in its entry of paged.pages.',
  marked: 'Of the entries of paged.pages, “current” is true for the page that is shown.',
  range: 'A page of a listing has “from”, “to” and “total”.',
  name: 'The text or the aria-label of the links has no number.',
  reversed: 'The loop over paged.pages is reversed.',
  number: 'Print the number of the entry of paged.pages, to which its “url” leads.',
}
/** What the line of the template has that causes it. */
const NEAR: Readonly<Partial<Record<Kind, RegExp>>> = {
  unmarked: /\.current\b|\.pages\b/,
  marked: /aria-current/,
  range: /\.(from|to|total)\b/,
  name: /\.pages\b/,
  reversed: /\.pages\b/,
  number: /\.pages\b/,
}

function describe(facts: Facts, { route }: CompiledRoute, fault: PagerFault): RuleFinding {
  const { kind, at, text, href, expected } = fault
  const near = NEAR[kind] && placeInTemplates(facts, route.name, NEAR[kind])
  return {
    // Several listings have the same partial.
    subject: near ? `${near.document}:${near.line ?? ''} ${kind}` : `${route.name} ${kind}`,
    title: `${at}: ${text}`,
    detail: DETAIL[kind](href),
    affects: 'now',
    witness: witness(at, text, href, expected),
    cause: CAUSE[kind],
    place: near ?? { document: templatePath(route.template ?? ''), line: null },
    others: [],
    fixes: [],
  }
}

interface PagerFault {
  kind: Kind
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
  const { links, neighbours } = readPage((await facts.request(path)).body)
  const own = new URL(path, 'http://blog.invalid')
  for (const { href, rel } of [...links, ...neighbours]) {
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
