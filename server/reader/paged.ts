/** Pages of a listing: which one a request is for, its rows, and links to the other pages. */
import { shorten } from '../../core/content/text.ts'
import { readCursor, writeCursor, type Cursor, type CursorPage } from '../../core/paging/cursor.ts'
import {
  addressesBy,
  numberedPage,
  pageCount,
  pageText,
  readPage,
  withQuery,
} from '../../core/paging/numbered.ts'
import { isSearch, type Take } from '../../core/queries/meaning.ts'
import type { Visibility } from '../../core/queries/plan.ts'
import { signWith } from './secret.ts'
import { isTooExpensive } from '../store/connection.ts'
import { dependenceOfResult } from '../store/statements/provenance.ts'
import {
  edgeAt,
  runQuery,
  runStatement,
  type PageAsked,
  type QueryResult,
  type Row,
} from '../store/statements/run-query.ts'
import type { CursorKeyPort, PoolPort, SearchPort } from '../publish/ports.ts'
import type { SiteQuery } from '../publish/site.ts'
import type { PageParameter } from './tracer.ts'

export interface RequestedPage {
  page: PageAsked
  /** How the page parameter was read. */
  parameter: PageParameter
  /** Returns the canonical address of the same page, if the request has another form of it. */
  canonical?: (path: string) => string | undefined
}

/** Returns which page of a query is requested; undefined if the query is not paged. */
export function requestedPage(
  ports: CursorKeyPort,
  query: SiteQuery,
  parameters: Readonly<Record<string, unknown>>,
  search: URLSearchParams,
): RequestedPage | undefined {
  const { take } = query.meaning
  if (take.kind !== 'pages') return undefined
  const raw = search.get(take.parameter) ?? undefined
  return take.by === 'cursor'
    ? requestedCursor(ports, query, take, parameters, raw)
    : requestedNumber(take, raw, search)
}

type Pages = Take & { kind: 'pages' }

function requestedNumber(
  { parameter }: Pages,
  raw: string | undefined,
  search: URLSearchParams,
): RequestedPage {
  const number = readPage(raw)
  // Another form of a number, such as 1 or 007, is redirected. Anything else is page 1, without a redirect.
  const isNumber = raw !== undefined && /^0*[1-9][0-9]{0,8}$/.test(raw)
  const text = pageText(number)
  const isInvalid = raw !== undefined && raw !== '' && !isNumber
  const note =
    raw === undefined
      ? 'absent: first page'
      : isNumber
        ? text === raw
          ? null
          : `redirected to ${text === null ? `the address without ${parameter}` : `${parameter}=${text}`}`
        : `“${shorten(raw, 40)}” is not a page number: page ${number}`
  return {
    page: { number },
    parameter: { name: parameter, raw: raw ?? null, type: 'page number', value: number, note, isInvalid },
    canonical: (path) =>
      isNumber && text !== raw ? withQuery(path, search, { [parameter]: text }) : undefined,
  }
}

/** Identifies the listing and its order, for which alone a cursor is valid. */
const scopeOf = ({ name, meaning }: SiteQuery, parameters: Readonly<Record<string, unknown>>) =>
  JSON.stringify([name, meaning.order, meaning.parameters.map((one) => parameters[one] ?? null)])

function requestedCursor(
  { cursorKey }: CursorKeyPort,
  query: SiteQuery,
  { parameter }: Pages,
  parameters: Readonly<Record<string, unknown>>,
  raw: string | undefined,
): RequestedPage {
  const known = { name: parameter, raw: raw ?? null, type: 'cursor' }
  if (raw === undefined || raw === '')
    return {
      page: { cursor: null },
      parameter: { ...known, value: null, note: 'absent: first page', isInvalid: false },
    }
  const read = readCursor(raw, scopeOf(query, parameters), signWith(cursorKey))
  if (!read.ok)
    return {
      page: { cursor: null },
      parameter: {
        ...known,
        raw: shorten(raw, 200),
        value: null,
        note: `first page, because ${read.why}`,
        isInvalid: true,
      },
    }
  const { toward, values } = read.cursor
  return {
    page: { cursor: read.cursor },
    parameter: {
      ...known,
      value: `${toward} ${values.map((one) => one ?? 'null').join(', ')}`,
      note: null,
      isInvalid: false,
    },
  }
}

export interface ShownPage {
  result: QueryResult
  /** What templates receive; undefined if there is no such page. */
  shown: unknown
  /** The page parameter in the page's own address; null for none. */
  address: string | null
  /** Whether a search was given up because it would have taken too long. */
  isTooBroad?: boolean
  /** Whether the page is beyond the last one. */
  isBeyond?: boolean
}

export interface PageRun {
  ports: PoolPort & SearchPort & CursorKeyPort
  query: SiteQuery
  as: Visibility
  parameters: Readonly<Record<string, unknown>>
  /** The address from which links to other pages are derived. */
  at: { path: string; search: URLSearchParams }
}

/** Runs a query, for the requested page if it is paged. */
export async function runPage(run: PageRun, requested: RequestedPage | undefined): Promise<ShownPage> {
  if (!isSearch(run.query.meaning)) return await pageOf(run, requested)
  try {
    return await pageOf(run, requested)
  } catch (error) {
    if (isTooExpensive(error)) return tooBroad(run)
    throw error
  }
}

/** What a search shows that would have taken too long: no rows, and the reason. */
function tooBroad({ query: { meaning, compiled }, at, parameters, query, as }: PageRun): ShownPage {
  const { take } = meaning
  const none = { rows: [], total: 0, isEstimated: false, around: undefined, edges: null, statements: [] }
  const dependence = dependenceOfResult({ name: query.name, meaning, compiled: compiled[as], parameters }, [])
  const result = { ...none, dependence }
  if (take.kind === 'one') return { result, shown: null, address: null, isTooBroad: true }
  if (take.kind !== 'pages') return { result, shown: [], address: null, isTooBroad: true }
  const address = addressesBy(at.path, at.search, take.parameter)
  const page = numberedPage<Row>([], { isEstimated: false, total: 0 }, take.size, 1, (number) =>
    address(pageText(number)),
  )
  return { result, shown: { ...page, isTooBroad: true }, address: null, isTooBroad: true }
}

async function pageOf(run: PageRun, requested: RequestedPage | undefined): Promise<ShownPage> {
  const result = await rowsOf(run, requested?.page)
  const { take } = run.query.meaning
  if (take.kind === 'one') return { result, shown: result.rows[0] ?? null, address: null }
  if (take.kind !== 'pages' || !requested) return { result, shown: result.rows, address: null }
  return 'cursor' in requested.page
    ? cursorPage(run, take, result, requested.page.cursor)
    : await pageByNumber(run, take, result, requested.page.number)
}

const rowsOf = ({ ports, query, as, parameters }: PageRun, page?: PageAsked) =>
  runQuery(isSearch(query.meaning) ? ports.searchPool : ports.pool, {
    name: query.name,
    meaning: query.meaning,
    compiled: query.compiled[as],
    parameters,
    ...(page ? { page } : {}),
  })

async function pageByNumber(
  run: PageRun,
  take: Pages,
  first: QueryResult,
  requested: number,
): Promise<ShownPage> {
  let [result, number] = [first, requested]
  const isBeyond = result.rows.length === 0 && number > 1
  if (isBeyond && take.pastTheEnd === 'not-found') return { result, shown: undefined, address: null }
  if (isBeyond && take.pastTheEnd === 'last' && (result.total ?? 0) > 0) {
    number = pageCount(await exactTotal(run, result), take.size)
    const again = await rowsOf(run, { number })
    result = { ...again, statements: [...result.statements, ...again.statements] }
  }
  const { rows, total = 0, isEstimated, around } = result
  const address = addressesBy(run.at.path, run.at.search, take.parameter)
  const shown = numberedPage<Row>(
    rows,
    isEstimated ? { isEstimated, total, more: around?.after ?? false } : { isEstimated, total },
    take.size,
    number,
    (page) => address(pageText(page)),
  )
  return { result, shown, address: rows.length === 0 ? null : pageText(number), isBeyond }
}

/** Counts all rows, because an estimate does not tell which page is the last. */
async function exactTotal(
  { ports, query, as, parameters }: PageRun,
  { total = 0, isEstimated, statements }: QueryResult,
): Promise<number> {
  const counting = query.compiled[as].total
  if (!isEstimated || !counting) return total
  const [row] = await runStatement(ports.pool, query.name, counting, { parameters }, statements)
  return Number(row?.['total'] ?? 0)
}

/** Returns the page parameter for the address of a page by its number; null for the first page. */
export async function pageAddress(run: Omit<PageRun, 'at'>, number: number): Promise<string | null> {
  const { ports, query, as, parameters } = run
  const { take, ...meaning } = query.meaning
  if (take.kind !== 'pages' || number <= 1) return null
  if (take.by === 'number') return pageText(number)
  const request = {
    name: query.name,
    meaning: { ...meaning, take },
    compiled: query.compiled[as],
    parameters,
  }
  const values = await edgeAt(ports.pool, request, (number - 1) * take.size - 1)
  return values
    ? writeCursor({ toward: 'after', values }, scopeOf(query, parameters), signWith(ports.cursorKey))
    : null
}

function cursorPage(
  { ports, query, parameters, at }: PageRun,
  { parameter, size }: Pages,
  result: QueryResult,
  requested: Cursor | null,
): ShownPage {
  const scope = scopeOf(query, parameters)
  const sign = signWith(ports.cursorKey)
  const address = addressesBy(at.path, at.search, parameter)
  const link = (text: string | null) => ({ url: address(text) })
  const cursor = (toward: Cursor['toward'], values: Cursor['values']) =>
    writeCursor({ toward, values }, scope, sign)
  const { edges, around, rows: items, total = null, isEstimated } = result
  // The first page has one address, whichever link led to it.
  const isFirst = requested === null || (edges !== null && !around?.before)
  const shown: CursorPage<Row> = {
    by: 'cursor',
    items,
    size,
    total,
    isEstimated,
    previous: edges && around?.before ? link(cursor('before', edges.first)) : null,
    next: edges && around?.after ? link(cursor('after', edges.last)) : null,
    first: isFirst ? null : link(null),
  }
  return { result, shown, address: isFirst ? null : cursor(requested.toward, requested.values) }
}
