/** Finds the template line for a part of the previewed page, and the elements that a line printed. */
import type { TemplatePreview } from '../../../contract/templates.ts'

type Page = Pick<NonNullable<TemplatePreview['page']>, 'places' | 'elements'>
type Place = Page['places'][number]

/** The attribute of the page's elements, which numbers them. */
const NUMBER = 'data-printed'

const numberOf = (element: Element) => Number(element.getAttribute(NUMBER) ?? NaN)

/** Returns the place that printed the text or element under the pointer. */
export function placeUnder({ places, elements }: Page, event: MouseEvent, page: Document): Place | undefined {
  const element = (event.target as Element | null)?.closest(`[${NUMBER}]`)
  if (!element) return undefined
  const printed = elements[numberOf(element)]
  const text = page.caretRangeFromPoint(event.clientX, event.clientY)?.startContainer
  const texts = [...element.childNodes].filter((one) => one.nodeType === Node.TEXT_NODE)
  // Scripts are removed from the frame, which joins the texts around them.
  const index = texts.length === printed?.texts.length && text ? texts.indexOf(text as ChildNode) : -1
  const ofText = index === -1 ? undefined : printed?.texts[index]
  const place = ofText === undefined || ofText === -1 ? printed?.tag[0] : ofText
  return place === undefined ? undefined : places[place]
}

/** Returns the outermost elements that a line has printed, as far as they are shown. */
export function elementsOf(
  { places, elements }: Page,
  document: string,
  line: number,
  page: Document,
): HTMLElement[] {
  const wanted = new Set(
    places.flatMap((one, index) => (one.document === document && one.line === line ? [index] : [])),
  )
  if (wanted.size === 0) return []
  const found: HTMLElement[] = []
  for (const element of page.body.querySelectorAll<HTMLElement>(`[${NUMBER}]`)) {
    const printed = elements[numberOf(element)]
    if (!printed || ![...printed.tag, ...printed.texts].some((one) => wanted.has(one))) continue
    if (!found.some((one) => one.contains(element))) found.push(element)
  }
  return found
}
