/** Finds lists whose order contradicts their name, their use, or the links between their pages. */
import { changeQuery } from '../../blog/edit-query.ts'
import { isSearch, type OrderKey, type QueryMeaning } from '../../queries/meaning.ts'
import { queryPath } from '../../shapes/documents.ts'
import { queriesOf } from '../../shapes/route-data.ts'
import type { Facts, PageQuery } from '../facts.ts'
import type { Fix } from '../finding.ts'
import { frequentWords, furtherPages, pagedPosts, searchParameters } from '../further-pages.ts'
import { ownPath } from '../page/addresses.ts'
import { readPage } from '../page/read-page.ts'
import { sampleOf, type SampleSize } from '../sample.ts'
import { addressesUsing, lineOf, saveFix, witness, type Rule, type RuleFinding } from '../rule.ts'

/** The field by which rows of a source are new. */
const DATE: Partial<Record<QueryMeaning['from'], string>> = { posts: 'publishedAt', comments: 'createdAt' }
const DATES = new Set(['publishedAt', 'updatedAt', 'createdAt'])
/** Addresses that are tried until one shows the order. */
const TRIED: SampleSize = { oldest: 4, newest: 4, between: 8 }
/** Words in a name that promise the newest rows. */
const PROMISES = new Set(['latest', 'newest', 'recent'])

/** Whether a name, such as `latest-posts` or `recentComments`, promises the newest rows. */
export const promisesNewest = (name: string): boolean =>
  name
    .replace(/([a-z0-9])([A-Z])/g, '$1-$2')
    .toLowerCase()
    .split(/[^a-z0-9]+/)
    .some((one) => PROMISES.has(one))

/** Texts of links between pages that speak of time. */
const OLDER = /\bolder\b/i
const NEWER = /\bnewer\b|\bnewest\b/i

export const orderWrong: Rule = {
  id: 'order-wrong',
  area: 'queries',
  meaning: 'The order of a list contradicts its name, its use in a feed, or the links between its pages.',
  why: 'New posts are missing where readers look for them.',
  async run(facts) {
    const { known } = await facts.addresses()
    const findings: RuleFinding[] = []
    const lists = [...facts.definition.queries].filter(
      ([, { take, countBy }]) => take.kind !== 'one' && countBy.length === 0,
    )
    let tested = 0
    for (const [name, meaning] of lists) {
      const addresses = addressesUsing(facts, name, known)
      if (addresses.length === 0) continue
      tested++
      const reason = reasonFor(facts, name, meaning)
      if (!reason) continue
      const searched = isSearch(meaning) ? await searchesOf(facts, name) : sampleOf(addresses, TRIED)
      for (const address of searched) {
        const run = (await facts.queriesAt(address)).find((one) => one.query === name)
        const shown = run && disorderIn(meaning, reason, run)
        if (shown === undefined) continue
        findings.push(describe(facts, { name, meaning, reason, address, shown }))
        break
      }
    }
    for (const one of await contradictedLinks(facts))
      if (!findings.some(({ subject }) => subject === one.subject)) findings.push(one)
    findings.push(...mixedMonths(facts, known))
    return {
      findings,
      claim: {
        sentence: 'No list has an order that contradicts its name, a feed or the links between its pages',
        tested,
        things: ['list', 'lists'],
      },
    }
  },
}

/** Finds numbers of rows by month whose months are sorted before their years. */
function mixedMonths(facts: Facts, known: Parameters<typeof addressesUsing>[2]): RuleFinding[] {
  return [...facts.definition.queries].flatMap(([name, { countBy, order }]) => {
    const year = countBy.find((one) => /Year$/.test(one))
    const month = countBy.find((one) => /Month$/.test(one))
    const place = (field: string | undefined) => order.findIndex((one) => one.field === field)
    const isDescending = (field: string | undefined) => order[place(field)]?.descending === true
    const isReversed = place(month) > place(year) && isDescending(month) !== isDescending(year)
    if (year === undefined || month === undefined || (place(month) > place(year) && !isReversed)) return []
    const document = queryPath(name)
    const text = facts.documents.get(document) ?? ''
    const sign = isDescending(month) ? '-' : ''
    const wanted = [`${sign}${year}`, `${sign}${month}`]
    const written = order.map(keyText).join(', ')
    return [
      {
        subject: name,
        title: `Query “${name}” sorts months ${isReversed ? 'in the other direction than their years' : 'before years'}`,
        detail: isReversed
          ? 'The last month of a year stands beside the last month of the next one.'
          : 'The same months of different years stand side by side.',
        affects: 'now',
        witness: witness(
          addressesUsing(facts, name, known)[0] ?? null,
          'The order of the months',
          written,
          wanted.join(', '),
        ),
        cause: `${document} sorts by ${written}.`,
        place: { document, line: lineOf(text, 'order:') },
        others: [],
        fixes: orderFix(document, text, wanted),
      },
    ]
  })
}

/** Returns addresses of searches with a query. */
async function searchesOf(facts: Facts, query: string): Promise<string[]> {
  const words = await frequentWords(facts)
  return facts.definition.routes
    .filter(({ route }) => queriesOf(route).includes(query) && !route.path.includes(':'))
    .flatMap(({ route }) => {
      const [parameter] = searchParameters(route.query)
      return parameter === undefined
        ? []
        : words.map((word) => `${route.path}?${parameter}=${encodeURIComponent(word)}`)
    })
}

interface Reason {
  /** Why the list should have the newest rows first, as a sentence. */
  because: string
  /** The order that was meant. */
  order: string[]
}

/** Returns why a list is expected to have another order; undefined if nothing says so. */
function reasonFor(facts: Facts, name: string, meaning: QueryMeaning): Reason | undefined {
  const { from, order, conditions, take } = meaning
  const [first] = order
  const date = DATE[from]
  if (!first || date === undefined) return undefined
  if (first.field === 'relevance' && !first.descending)
    return {
      because: 'The results that match best come last.',
      order: ['-relevance', ...order.slice(1).filter(isDeclared).map(keyText)],
    }
  if (isSearch(meaning))
    return DATES.has(first.field) && !first.descending
      ? { because: 'The oldest results come first.', order: ['-relevance', `-${date}`] }
      : undefined
  if (DATES.has(first.field) && first.descending) return undefined
  const newestFirst = [`-${date}`]
  const { routes, settings } = facts.definition
  const feed = routes.find(({ route }) => route.feed !== undefined && queriesOf(route).includes(name))
  if (feed) return { because: `The feed ${feed.route.path} is made from it.`, order: newestFirst }
  // A window of time has its own idea of what is recent.
  if (conditions.some((one) => DATES.has(one.field))) return undefined
  const names = [
    name,
    ...[...routes.map(({ route }) => route.data ?? {}), settings['not-found']?.data ?? {}].flatMap((data) =>
      Object.entries(data).flatMap(([own, entry]) =>
        (typeof entry === 'string' ? entry : entry.query) === name ? [own] : [],
      ),
    ),
  ]
  const promising = names.find((one) => promisesNewest(one))
  if (promising !== undefined)
    return { because: `Its name, “${promising}”, promises the newest rows.`, order: newestFirst }
  if (take.kind === 'first' && first.field === date)
    return {
      because: `It takes the first ${take.count}, which are the oldest, so it never shows a new one.`,
      order: newestFirst,
    }
  return undefined
}

/** The key that makes an order total is not written. */
const isDeclared = ({ field }: OrderKey) => field !== 'id'
const keyText = ({ field, descending }: OrderKey) => `${descending ? '-' : ''}${field}`

/** Returns two rows that show the order, as a clause; undefined if the rows are in the expected order nevertheless. */
function disorderIn(
  { from }: QueryMeaning,
  { order }: Reason,
  { shown, dates }: PageQuery,
): string | undefined {
  if (shown.length < 2) return undefined
  const [a, b] = [shown[0] ?? '', shown[1] ?? '']
  if (from !== 'posts' || order[0] === '-relevance') return `“${a}” comes before “${b}”`
  const at = dates.findIndex((one, index) => {
    const next = dates[index + 1]
    return one !== null && next !== null && next !== undefined && one < next
  })
  if (at === -1) return undefined
  const day = (index: number) => (dates[index] ?? '').slice(0, 10)
  return `“${shown[at] ?? ''}” of ${day(at)} comes before “${shown[at + 1] ?? ''}” of ${day(at + 1)}`
}

interface Wrong {
  name: string
  meaning: QueryMeaning
  reason: Reason
  address: string
  /** What shows the order, as a clause. */
  shown: string
}

function describe(facts: Facts, { name, meaning, reason, address, shown }: Wrong): RuleFinding {
  const document = queryPath(name)
  const text = facts.documents.get(document) ?? ''
  const now = meaning.order.filter(isDeclared).map(keyText).join(', ')
  return {
    subject: name,
    title: `Query “${name}” has the wrong order`,
    detail: `${reason.because} At ${address}, ${shown}.`,
    affects: 'now',
    witness: witness(address, shown, now === '' ? 'id' : now, reason.order.join(', ')),
    cause: `${document} has “order: [${now}]”.`,
    place: { document, line: lineOf(text, 'order:') },
    others: [],
    fixes: orderFix(document, text, reason.order),
  }
}

const orderFix = (document: string, text: string, order: readonly string[]): Fix[] =>
  saveFix(document, changeQuery(text, ['order'], [...order]), ...wordsFor(order))

/** Returns the label of the fix, and what holds after it. */
function wordsFor([first = '', second = '']: readonly string[]): [string, string] {
  if (first === '-relevance') return ['Best matches first', 'The best matches come first.']
  return /Month$/.test(second)
    ? ['Sort by year first', 'The months of a year stand together.']
    : ['Newest first', 'The newest rows come first.']
}

/** Finds links called “Older” or “Newer” that lead to rows which are not. */
async function contradictedLinks(facts: Facts): Promise<RuleFinding[]> {
  const findings: RuleFinding[] = []
  for (const compiled of facts.definition.routes) {
    const paged = pagedPosts(facts, compiled)
    if (!paged) continue
    for (const path of await furtherPages(facts, compiled, paged)) {
      const found = await contradictedOn(facts, path, paged.query)
      if (!found) continue
      const { text, target, is } = found
      const document = queryPath(paged.query)
      const isRanked = isSearch(paged.meaning)
      findings.push({
        subject: paged.query,
        title: `${path}: the link “${text}” leads to posts that are not ${is}`,
        detail: `It leads to ${target}. The order of “${paged.query}” is ${paged.meaning.order.filter(isDeclared).map(keyText).join(', ')}.`,
        affects: 'now',
        witness: witness(
          path,
          `“${text}” leads to ${target}, whose posts are not ${is}`,
          target,
          `${is} posts`,
        ),
        cause: isRanked
          ? 'A search is not sorted by date. Call these links “Previous” and “Next”.'
          : `The order of ${document} is wrong, or the texts of the links are.`,
        place: { document, line: lineOf(facts.documents.get(document), 'order:') },
        others: [],
        fixes: isRanked ? [] : orderFix(document, facts.documents.get(document) ?? '', ['-publishedAt']),
      })
      break
    }
  }
  return findings
}

async function contradictedOn(
  facts: Facts,
  path: string,
  query: string,
): Promise<{ text: string; target: string; is: 'older' | 'newer' } | undefined> {
  const own = await datesAt(facts, path, query)
  const [pathname] = path.split('?')
  for (const { href, text } of readPage((await facts.request(path)).body).links) {
    const is = OLDER.test(text) ? 'older' : NEWER.test(text) ? 'newer' : undefined
    const target = ownPath(href, path)
    if (is === undefined || target === undefined || target === path) continue
    if (target.split('?')[0] !== pathname) continue
    const other = await datesAt(facts, target, query)
    if (own.length === 0 || other.length === 0) continue
    const isRight =
      is === 'older'
        ? (other.at(-1) ?? '') <= (own.at(-1) ?? '') && (other[0] ?? '') <= (own[0] ?? '')
        : (other.at(-1) ?? '') >= (own.at(-1) ?? '') && (other[0] ?? '') >= (own[0] ?? '')
    if (!isRight) return { text: text.trim(), target, is }
  }
  return undefined
}

/** Returns the publication dates of a page's rows, sorted. */
async function datesAt(facts: Facts, path: string, query: string): Promise<string[]> {
  const run = (await facts.queriesAt(path)).find((one) => one.query === query)
  return (run?.dates ?? []).flatMap((one) => one ?? []).sort()
}
