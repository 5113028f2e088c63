/** Maps each element of a page to the template lines that printed it. */
import { parse, type DefaultTreeAdapterTypes as Tree } from 'parse5'
import type { PageRecorder, PrintedPlace } from './page-recorder.ts'

/** The attribute that numbers the elements of a marked page. */
const PRINTED_ATTRIBUTE = 'data-printed'

export interface PrintedPage {
  /** The page; `data-printed` has the number of each element. */
  html: string
  places: PrintedPlace[]
  /** For each element: what has printed its start tag, and its texts. Numbers are indexes of `places`, -1 for none. */
  elements: { tag: number[]; texts: number[] }[]
}

/** Elements of a page. Those after them are not marked. */
const MOST_ELEMENTS = 20_000

/** Parses a page as browsers do (WHATWG HTML, through parse5), and finds what has printed its elements. */
export function printedElements(html: string, recorder: PageRecorder): PrintedPage {
  const places = new Indexed()
  const elements: PrintedPage['elements'] = []
  const parts: string[] = []
  let copied = 0
  const mark = (element: Tree.Element) => {
    const start = element.sourceCodeLocation?.startTag
    if (!start || elements.length >= MOST_ELEMENTS) return
    const name = start.startOffset + 1 + element.tagName.length
    // An element that a parser has moved, or repeated, is marked where its tag is.
    if (name < copied) return
    parts.push(html.slice(copied, name), ` ${PRINTED_ATTRIBUTE}="${elements.length}"`)
    copied = name
    elements.push({
      tag: recorder.placesIn(html, start.startOffset, start.endOffset).map((one) => places.index(one)),
      texts: element.childNodes.filter(isText).map((one) => {
        const from = (one.sourceCodeLocation?.startOffset ?? 0) + (/\S/.exec(one.value)?.index ?? 0)
        const [first] = one.value.trim() === '' ? [] : recorder.placesIn(html, from, from + 1)
        return first ? places.index(first) : -1
      }),
    })
  }
  for (const element of elementsIn(parse(html, { sourceCodeLocationInfo: true }))) mark(element)
  parts.push(html.slice(copied))
  return { html: parts.join(''), places: places.all, elements }
}

const isText = (node: Tree.ChildNode): node is Tree.TextNode => node.nodeName === '#text'
const isElement = (node: Tree.ChildNode): node is Tree.Element => 'tagName' in node

/** Yields all elements in the order of their tags. */
function* elementsIn(root: Tree.ParentNode): Generator<Tree.Element> {
  const waiting = root.childNodes.toReversed()
  for (let node = waiting.pop(); node; node = waiting.pop()) {
    if (!isElement(node)) continue
    yield node
    waiting.push(...node.childNodes.toReversed())
  }
}

/** Numbers places. Equal ones have one number. */
class Indexed {
  readonly all: PrintedPlace[] = []
  readonly #known = new Map<string, number>()

  index(place: PrintedPlace): number {
    const key = `${place.template}:${place.line}:${place.time}`
    let index = this.#known.get(key)
    if (index === undefined) {
      index = this.all.push(place) - 1
      this.#known.set(key, index)
    }
    return index
  }
}
