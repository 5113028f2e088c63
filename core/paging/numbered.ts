/** Numbered pages. The facts they follow (ranges, page counts, answers to odd values) are common practice. */

/** Largest page number that is read; above it every page is past the end anyway. */
const PAGE_MAXIMUM = 1_000_000_000

/**
 * The page a query string asks for: 1 when the value is missing, empty, not a whole number or below 1.
 * @param value raw value of the page parameter; the first where it is repeated
 */
export function readPage(value: string | undefined): number {
  if (value === undefined || !/^[0-9]+$/.test(value)) return 1
  const page = value.length > 10 ? PAGE_MAXIMUM : Math.min(Number(value), PAGE_MAXIMUM)
  return page < 1 ? 1 : page
}

/** The number as an address writes it: none for the first page, so that no page has two addresses. */
export const pageText = (page: number): string | null => (page === 1 ? null : String(page))

/** ceil(total / size); 0 when there is nothing. */
export const pageCount = (total: number, size: number) => Math.ceil(total / size)

export interface PageLink {
  number: number
  /** Where it leads, other parameters kept; page 1 has no page parameter. */
  url: string
  current: boolean
}
/** A page link, or a gap between them. */
export type PageEntry = (PageLink & { gap: false }) | { gap: true }

export interface NumberedPage<Row> {
  by: 'number'
  items: Row[]
  total: number
  /** The total, and with it the number of pages, is PostgreSQL's estimate: “about”. */
  isEstimated: boolean
  size: number
  page: number
  pageCount: number
  /** 1-based positions of the first and last item; 0 when the page is empty. */
  from: number
  to: number
  previous: PageLink | null
  next: PageLink | null
  /** The first page; null when this is it. */
  first: PageLink | null
  /** The last page; null when this is it, or when the total is an estimate. */
  last: PageLink | null
  pages: PageEntry[]
}

/** Page numbers to link: the first, the last, the current with its neighbours; null is a gap of two or more. */
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

/** How many rows there are: counted, or estimated with whether there are more after this page. */
export type Total =
  { isEstimated: false; total: number } | { isEstimated: true; total: number; more: boolean }

/**
 * The paged result that templates see.
 * @param address address of a page by its number
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
  // An estimate promises no page: links go as far as it is known that there are rows.
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

/** Estimates are told to two digits: more of them would be made up. */
export function roundedEstimate(rows: number): number {
  const unit = 10 ** Math.max(0, Math.floor(Math.log10(Math.max(1, rows))) - 1)
  return Math.round(rows / unit) * unit
}

/**
 * An address with its query string changed; other parameters are kept in their order.
 * @param changes parameter → value; null or an empty text removes it
 */
export function withQuery(
  path: string,
  query: string,
  changes: Readonly<Record<string, string | null>>,
): string {
  const kept = new URLSearchParams(query)
  for (const [name, value] of Object.entries(changes)) {
    if (value === null || value === '') kept.delete(name)
    else kept.set(name, value)
  }
  const text = kept.toString()
  return text === '' ? path : `${path}?${text}`
}
