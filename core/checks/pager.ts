/** Reads what the navigation between the pages of a listing says about the page that is shown. */
import { DomUtils, ElementType, parseDocument } from 'htmlparser2'
import { groupBy } from './group-by.ts'
import { ownPath, withoutQuery } from './page/addresses.ts'

export interface Pager {
  /** The pages that its links name by their number. */
  numbers: number[]
  /** The pages to which links with the same name lead, if they are several. */
  sameName: { name: string; pages: number[] } | undefined
  /** Links whose text is the number of another page. */
  misnumbered: { text: string; page: number }[]
  /** Whether an element has `aria-current`. */
  isMarked: boolean
  /** The number that is marked as the current page; undefined if none or something else is. */
  marked: number | undefined
  /** The numbers in its text, without those of links and of the current page. */
  said: number[]
}

/**
 * Returns the navigations that link to other pages of the listing.
 * @param own the path and query string of the page
 * @param parameter the name of the page parameter
 */
export function pagersOf(html: string, own: string, parameter: string): Pager[] {
  const navigations = DomUtils.findAll(
    (one) => one.name === 'nav' || one.attribs['role'] === 'navigation',
    parseDocument(html).children,
  )
  return navigations.flatMap((navigation) => {
    const tags = DomUtils.findAll(() => true, [navigation])
    const links = tags.filter((one) => one.name === 'a' && one.attribs['href'] !== undefined)
    const isCurrent = ({ attribs }: (typeof tags)[number]) =>
      !['', 'false'].includes(attribs['aria-current'] ?? '')
    const named = links.flatMap((one) => {
      const target = ownPath(one.attribs['href'] ?? '', own)
      if (target === undefined || withoutQuery(target) !== withoutQuery(own)) return []
      const page = new URL(target, 'http://blog.invalid').searchParams.get(parameter)
      const text = DomUtils.textContent(one).trim()
      return [{ page, text, name: one.attribs['aria-label']?.trim() ?? text }]
    })
    if (!named.some((one) => one.page !== null)) return []
    const leftOut = new Set<unknown>([...links, ...tags.filter(isCurrent)])
    const texts = DomUtils.filter((one) => one.type === ElementType.Text, [navigation]).filter(
      (one) => !parents(one).some((parent) => leftOut.has(parent)),
    )
    return [
      {
        numbers: named.flatMap(({ page, text }) => ((page ?? '1') === text ? [Number(text)] : [])),
        misnumbered: named.flatMap(({ page, text }) =>
          page !== null && /^\d+$/.test(page) && /^\d+$/.test(text) && page !== text
            ? [{ text, page: Number(page) }]
            : [],
        ),
        sameName: sameNameOf(named),
        isMarked: tags.some(isCurrent),
        marked: tags.filter(isCurrent).flatMap((one) => wholeNumber(DomUtils.textContent(one)) ?? [])[0],
        said: numbersIn(texts.map((one) => DomUtils.textContent(one)).join(' ')),
      },
    ]
  })
}

/** Screen readers list links by their names (WCAG 2.2, 2.4.4). */
function sameNameOf(links: readonly { page: string | null; name: string }[]): Pager['sameName'] {
  for (const [name, same] of groupBy(links, (one) => one.name)) {
    const pages = [...new Set(same.map((one) => Number(one.page ?? '1')))]
    if (pages.length > 1 && !pages.some(Number.isNaN)) return { name, pages }
  }
  return undefined
}

const wholeNumber = (text: string) => (/^\s*\d+\s*$/.test(text) ? Number(text) : undefined)

const numbersIn = (text: string): number[] =>
  (text.match(/\d[\d.,]*/g) ?? []).map((one) => Number(one.replace(/[.,]/g, '')))

function parents(node: { parent: unknown }): unknown[] {
  const found: unknown[] = []
  for (let one = node.parent; one; one = (one as { parent: unknown }).parent) found.push(one)
  return found
}
