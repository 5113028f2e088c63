/** Pages of a listing: which one an address asks for, its rows, and where the others are. */
import { shorten } from '../../core/content/text.ts'
import { readCursor, writeCursor, type Cursor, type CursorPage } from '../../core/paging/cursor.ts'
import { numberedPage, pageCount, pageText, readPage, withQuery } from '../../core/paging/numbered.ts'
import type { Take } from '../../core/queries/meaning.ts'
import type { Visibility } from '../store/statements/compile-query.ts'
import type { Blog } from './blog.ts'
import { signWith } from './cursor-key.ts'
import {
  edgeAt,
  runQuery,
  runStatement,
  type PageAsked,
  type QueryResult,
  type Row,
} from '../store/statements/run-query.ts'
import type { SiteQuery } from '../publish/site.ts'
import type { WalkParameter } from '../../contract/walk-record.ts'

export interface AskedPage {
  page: PageAsked
  /** For the walk: how the value in the address was read. */
  note: Omit<WalkParameter, 'from'>
  /** Where the same page has its address, when this is another way to write it. */
  elsewhere?: (path: string) => string | undefined
}

/** @param search the query string @returns undefined where the query is not paged */
export function askedPage(
  blog: Blog,
  query: SiteQuery,
  parameters: Readonly<Record<string, unknown>>,
  search: string,
): AskedPage | undefined {
  const { take } = query.meaning
  if (take.kind !== 'pages') return undefined
  const raw = new URLSearchParams(search).get(take.parameter) ?? undefined
  return take.by === 'cursor'
    ? askedCursor(blog, query, take, parameters, raw)
    : askedNumber(take, raw, search)
}

type Pages = Take & { kind: 'pages' }

function askedNumber({ parameter }: Pages, raw: string | undefined, search: string): AskedPage {
  const number = readPage(raw)
  // Written in another way, such as 1 or 007; what is no page number is read as the first, and stays where it is.
  const isNumber = raw !== undefined && /^0*[1-9][0-9]{0,8}$/.test(raw)
  const text = pageText(number)
  const note =
    raw === undefined
      ? 'missing, so the first page'
      : isNumber
        ? text === raw
          ? null
          : `the same page is at ${text === null ? 'the address without it' : `${parameter}=${text}`}`
        : `“${shorten(raw, 40)}” is not a page number, read as ${number}`
  return {
    page: { number },
    note: { name: parameter, raw: raw ?? null, type: 'page number', value: number, note },
    elsewhere: (path) =>
      isNumber && text !== raw ? withQuery(path, search, { [parameter]: text }) : undefined,
  }
}

/** What a cursor is for: this listing in this order. */
const scopeOf = ({ name, meaning }: SiteQuery, parameters: Readonly<Record<string, unknown>>) =>
  JSON.stringify([name, meaning.order, meaning.parameters.map((one) => parameters[one] ?? null)])

function askedCursor(
  blog: Blog,
  query: SiteQuery,
  { parameter }: Pages,
  parameters: Readonly<Record<string, unknown>>,
  raw: string | undefined,
): AskedPage {
  const known = { name: parameter, raw: raw ?? null, type: 'cursor' }
  if (raw === undefined || raw === '')
    return {
      page: { cursor: null },
      note: { ...known, value: null, note: 'missing, so from the beginning' },
    }
  const read = readCursor(raw, scopeOf(query, parameters), signWith(blog.cursorKey))
  if (!read.ok)
    return {
      page: { cursor: null },
      note: { ...known, raw: shorten(raw, 200), value: null, note: `${read.why}: read from the beginning` },
    }
  const { toward, values } = read.cursor
  return {
    page: { cursor: read.cursor },
    note: { ...known, value: `${toward} ${values.map((one) => one ?? 'nothing').join(', ')}`, note: null },
  }
}

export interface ShownPage {
  result: QueryResult
  /** What templates see; undefined when there is no such page. */
  shown: unknown
  /** What the page's own address says about its place: the parameter's text, null for none. */
  address: string | null
}

export interface PageRun {
  blog: Blog
  query: SiteQuery
  as: Visibility
  parameters: Readonly<Record<string, unknown>>
  /** Address that links to other pages are made from: path and query string. */
  at: { path: string; query: string }
}

/** Runs a query, paged or not, for the page that was asked for. */
export async function runPage(run: PageRun, asked: AskedPage | undefined): Promise<ShownPage> {
  const result = await rowsOf(run, asked?.page)
  const { take } = run.query.meaning
  if (take.kind === 'one') return { result, shown: result.rows[0] ?? null, address: null }
  if (take.kind !== 'pages' || !asked) return { result, shown: result.rows, address: null }
  return 'cursor' in asked.page
    ? cursorPage(run, take, result, asked.page.cursor)
    : await pageByNumber(run, take, result, asked.page.number)
}

const rowsOf = ({ blog, query, as, parameters }: PageRun, page?: PageAsked) =>
  runQuery(blog.pool, {
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
  asked: number,
): Promise<ShownPage> {
  let [result, number] = [first, asked]
  const isPast = result.rows.length === 0 && number > 1
  if (isPast && take.pastTheEnd === 'not-found') return { result, shown: undefined, address: null }
  if (isPast && take.pastTheEnd === 'last' && (result.total ?? 0) > 0) {
    number = pageCount(await exactTotal(run, result), take.size)
    const again = await rowsOf(run, { number })
    result = { ...again, statements: [...result.statements, ...again.statements] }
  }
  const { rows, total = 0, isEstimated, around } = result
  const { path, query } = run.at
  const shown = numberedPage<Row>(
    rows,
    isEstimated ? { isEstimated, total, more: around?.after ?? false } : { isEstimated, total },
    take.size,
    number,
    (page) => withQuery(path, query, { [take.parameter]: pageText(page) }),
  )
  return { result, shown, address: rows.length === 0 ? null : pageText(number) }
}

/** Only counting all of them tells which page is the last. */
async function exactTotal(
  { blog, query, as, parameters }: PageRun,
  { total = 0, isEstimated, statements }: QueryResult,
): Promise<number> {
  const counting = query.compiled[as].total
  if (!isEstimated || !counting) return total
  const [row] = await runStatement(blog.pool, query.name, counting, { parameters }, statements)
  return Number(row?.['total'] ?? 0)
}

/** What the address of a page by number says: the parameter's text, null for the first. */
export async function pageAddress(run: Omit<PageRun, 'at'>, number: number): Promise<string | null> {
  const { blog, query, as, parameters } = run
  const { take, ...meaning } = query.meaning
  if (take.kind !== 'pages' || number <= 1) return null
  if (take.by === 'number') return pageText(number)
  const request = {
    name: query.name,
    meaning: { ...meaning, take },
    compiled: query.compiled[as],
    parameters,
  }
  const values = await edgeAt(blog.pool, request, (number - 1) * take.size - 1)
  return values
    ? writeCursor({ toward: 'after', values }, scopeOf(query, parameters), signWith(blog.cursorKey))
    : null
}

function cursorPage(
  { blog, query, parameters, at }: PageRun,
  { parameter, size }: Pages,
  result: QueryResult,
  asked: Cursor | null,
): ShownPage {
  const scope = scopeOf(query, parameters)
  const sign = signWith(blog.cursorKey)
  const link = (text: string | null) => ({ url: withQuery(at.path, at.query, { [parameter]: text }) })
  const cursor = (toward: Cursor['toward'], values: Cursor['values']) =>
    writeCursor({ toward, values }, scope, sign)
  const { edges, around, rows: items, total = null, isEstimated } = result
  // The beginning has one address, however it was come to.
  const isBeginning = asked === null || (edges !== null && !around?.before)
  const shown: CursorPage<Row> = {
    by: 'cursor',
    items,
    size,
    total,
    isEstimated,
    previous: edges && around?.before ? link(cursor('before', edges.first)) : null,
    next: edges && around?.after ? link(cursor('after', edges.last)) : null,
    first: isBeginning ? null : link(null),
  }
  return { result, shown, address: isBeginning ? null : cursor(asked.toward, asked.values) }
}
