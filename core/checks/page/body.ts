/** Reads the names, ids and classes of a page's elements, and its text. */
import type { PartReader } from './part.ts'
import type { ReadPage } from './shape.ts'

/** Elements whose text shows code. */
const CODE = new Set(['code', 'pre', 'textarea', 'script', 'style', 'samp', 'kbd', 'title'])
const TAGS = 'p|mark|div|span|a|br|strong|em|b|i|ul|ol|li|h[1-6]|img|blockquote|table|figure'
/** A tag that was escaped on the way, once or twice. Text about HTML rarely has a whole start tag outside of code. */
const SHOWN_TAG = new RegExp(
  // Each part ends where another tag may start, so long texts are read once.
  `<\\/?(?:${TAGS})(?:\\s[^<>]*)?>|&lt;\\/?(?:${TAGS})(?:\\s[^<>&]*)?&gt;`,
  'i',
)

/** So much of a page's text is kept, in characters. */
const LONGEST_PROSE = 2_000
/** So many paragraphs are content, and not a note. */
const SEVERAL = 3

const HIDING = ['hidden', 'inert']
const LANDMARKS = new Set(['main', 'header', 'h1', 'article'])

type Body = Pick<ReadPage, 'ids' | 'classes' | 'elements' | 'hidden' | 'escaped' | 'prose' | 'around'>

export function readBody(): PartReader<Body> {
  const body: Body = {
    ids: new Set(),
    classes: new Set(),
    elements: new Set(),
    hidden: [],
    escaped: [],
    prose: '',
    around: new Set(),
  }
  let code = 0
  let isProse = false
  const content = new ContentClasses(body.around)
  return {
    part: body,
    open({ name, attributes, classes }, around) {
      if (CODE.has(name)) code++
      body.elements.add(name)
      if (attributes['id'] !== undefined) body.ids.add(attributes['id'])
      for (const one of classes) body.classes.add(one)
      content.open(name, classes)
      if (name === 'p') isProse = around.has('main') || around.has('article')
      const hiding = HIDING.find((one) => attributes[one] !== undefined)
      if (hiding !== undefined && LANDMARKS.has(name)) body.hidden.push({ name, attribute: hiding })
    },
    text(text) {
      if (isProse && body.prose.length < LONGEST_PROSE) body.prose += `${text} `
      const shown = code === 0 ? SHOWN_TAG.exec(text) : null
      if (shown) body.escaped.push(text.slice(Math.max(0, shown.index - 40), shown.index + 80).trim())
    },
    close(name) {
      if (CODE.has(name)) code--
      if (name === 'p') isProse = false
      content.close()
    },
  }
}

/** Finds the classes of the elements in which the main heading or several paragraphs are. */
class ContentClasses {
  readonly #found: Set<string>
  readonly #open: { classes: readonly string[]; paragraphs: number; hasHeading: boolean }[] = []
  /** How many open elements have a class. */
  readonly #around = new Map<string, number>()
  /** How many paragraphs are in elements with a class. */
  readonly #paragraphs = new Map<string, number>()

  constructor(found: Set<string>) {
    this.#found = found
  }

  open(name: string, classes: readonly string[]): void {
    const own = [...new Set(classes)]
    const hasHeading = name === 'h1'
    this.#open.push({ classes: own, paragraphs: hasHeading || name === 'p' ? 1 : 0, hasHeading })
    for (const one of own) this.#around.set(one, (this.#around.get(one) ?? 0) + 1)
  }

  close(): void {
    const closed = this.#open.pop()
    if (!closed) return
    const { classes, paragraphs, hasHeading } = closed
    for (const one of classes) {
      const around = (this.#around.get(one) ?? 1) - 1
      this.#around.set(one, around)
      // What is in several elements with the same class counts for the outermost.
      const inside = (this.#paragraphs.get(one) ?? 0) + (around === 0 ? paragraphs : 0)
      this.#paragraphs.set(one, inside)
      if (hasHeading || inside >= SEVERAL) this.#found.add(one)
    }
    const parent = this.#open.at(-1)
    if (!parent) return
    parent.paragraphs += paragraphs
    parent.hasHeading ||= hasHeading
  }
}
