/** Numbered pages. Their ranges, page counts and treatment of invalid values are common practice. */

/** The maximum page number. Larger numbers are beyond the last page anyway. */
const PAGE_MAXIMUM = 1_000_000_000

/**
 * Returns the requested page: 1 if the value is missing, empty, not an integer or less than 1.
 * @param value the raw value of the page parameter; the first if it is repeated
 */
export function readPage(value: string | undefined): number {
  if (value === undefined || !/^[0-9]+$/.test(value)) return 1
  const page = value.length > 10 ? PAGE_MAXIMUM : Math.min(Number(value), PAGE_MAXIMUM)
  return page < 1 ? 1 : page
}

/** Returns the page number for an address: null for page 1, so that no page has two addresses. */
export const pageText = (page: number): string | null => (page === 1 ? null : String(page))

/** Returns ceil(total / size). */
export const pageCount = (total: number, size: number) => Math.ceil(total / size)

export interface PageLink {
  number: number
  /** Keeps the other parameters. Page 1 has no page parameter. */
  url: string
  current: boolean
}
/** A page link, or a gap between page links. */
export type PageEntry = (PageLink & { gap: false }) | { gap: true }

export interface NumberedPage<Row> {
  by: 'number'
  items: Row[]
  total: number
  /** Whether the total, and therefore the page count, is PostgreSQL's estimate. */
  isEstimated: boolean
  size: number
  page: number
  pageCount: number
  /** The 1-based positions of the first and last item; 0 if the page is empty. */
  from: number
  to: number
  previous: PageLink | null
  next: PageLink | null
  /** The first page; null on the first page. */
  first: PageLink | null
  /** The last page; null on the last page, or if the total is an estimate. */
  last: PageLink | null
  pages: PageEntry[]
}

/** Returns the page numbers to link: first, last, current and its neighbours. Null is a gap of two or more pages. */
export function pageWindow(page: number, count: number): (number | null)[] {
  const shown = new Set<number>()
  for (const number of [1, page - 1, page, page + 1, count])
    if (number >= 1 && number <= count) shown.add(number)
  const numbers = [...shown].sort((a, b) => a - b)
  return numbers.flatMap((number, index) => {
    const before = numbers[index - 1]
    if (before === undefined || number === before + 1) return [number]
    return number === before + 2 ? [before + 1, number] : [null, number]
  })
}

/** The number of rows: counted, or estimated together with whether rows follow this page. */
export type Total =
  { isEstimated: false; total: number } | { isEstimated: true; total: number; more: boolean }

/**
 * Builds the paged result that templates receive.
 * @param address returns the address of a page
 */
export function numberedPage<Row>(
  items: Row[],
  count: Total,
  size: number,
  page: number,
  address: (page: number) => string,
): NumberedPage<Row> {
  const { total, isEstimated } = count
  const pages = pageCount(total, size)
  const link = (number: number): PageLink => ({ number, url: address(number), current: number === page })
  const from = items.length === 0 ? 0 : (page - 1) * size + 1
  const hasNext = count.isEstimated ? count.more : page < pages
  // With an estimate, only pages that are known to have rows are linked.
  const known = isEstimated ? page + Number(hasNext) : pages
  const entries = pageWindow(page, known).map((number): PageEntry =>
    number === null ? { gap: true } : { ...link(number), gap: false },
  )
  return {
    by: 'number',
    items,
    total,
    isEstimated,
    size,
    page,
    pageCount: pages,
    from,
    to: items.length === 0 ? 0 : from + items.length - 1,
    previous: page > 1 && known > 0 ? link(Math.min(page - 1, known)) : null,
    next: hasNext ? link(page + 1) : null,
    first: page > 1 ? link(1) : null,
    last: !isEstimated && page < pages ? link(pages) : null,
    pages: isEstimated && hasNext && pages > known ? [...entries, { gap: true }] : entries,
  }
}

/** Rounds an estimate to two significant digits; more would be false precision. */
export function roundedEstimate(rows: number): number {
  const unit = 10 ** Math.max(0, Math.floor(Math.log10(Math.max(1, rows))) - 1)
  return Math.round(rows / unit) * unit
}

/**
 * Changes parameters of an address. Other parameters are kept in their order.
 * @param changes new values; null or an empty text removes the parameter
 */
export function withQuery(
  path: string,
  search: URLSearchParams,
  changes: Readonly<Record<string, string | null>>,
): string {
  const changed = new URLSearchParams(search)
  for (const [name, value] of Object.entries(changes)) {
    if (value === null || value === '') changed.delete(name)
    else changed.set(name, value)
  }
  const text = changed.toString()
  return text === '' ? path : `${path}?${text}`
}

/**
 * Returns a function from the value of a parameter to the address with that value. It does the work that is the same for
 * all values once, since a page links to many pages of its listing.
 */
export function addressesBy(
  path: string,
  search: URLSearchParams,
  name: string,
): (value: string | null) => string {
  const entries = [...search]
  const at = entries.findIndex(([key]) => key === name)
  const text = (some: string[][]) => new URLSearchParams(some).toString()
  const before = text(at === -1 ? entries : entries.slice(0, at))
  const after = at === -1 ? '' : text(entries.slice(at).filter(([key]) => key !== name))
  return (value) => {
    const own = value === null || value === '' ? '' : text([[name, value]])
    const query = [before, own, after].filter((one) => one !== '').join('&')
    return query === '' ? path : `${path}?${query}`
  }
}
