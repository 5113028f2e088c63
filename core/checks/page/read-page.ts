/** Extracts from a page its head, links, forms and resources, inline styles and scripts, and HTML that is shown as text. */
import { Parser } from 'htmlparser2'
import { readBody } from './body.ts'
import { readFiles } from './files.ts'
import { readForms } from './forms.ts'
import { readHead } from './head.ts'
import { readLinks } from './links.ts'
import { readLists } from './lists.ts'
import type { Around } from './part.ts'
import type { ReadPage } from './shape.ts'
import { readTimes } from './times.ts'

/** Counts open elements by name, so that a question about them costs the same however many there are. */
class OpenElements implements Around {
  depth = 0
  readonly #open = new Map<string, number>()

  has(name: string): boolean {
    return (this.#open.get(name) ?? 0) > 0
  }

  add(name: string, by: 1 | -1): void {
    this.depth += by
    this.#open.set(name, (this.#open.get(name) ?? 0) + by)
  }
}

/** Reads a page. No reader of a part searches the elements around, of which there may be thousands. */
export function readPage(html: string): ReadPage {
  const readers = {
    head: readHead(),
    links: readLinks(),
    forms: readForms(),
    lists: readLists(),
    times: readTimes(),
    body: readBody(),
    files: readFiles(),
  }
  const all = Object.values(readers)
  const around = new OpenElements()
  let text = ''
  /** Passes on the text before a tag. It arrives in parts, one for each entity. */
  const endText = () => {
    for (const one of all) one.text?.(text, around)
    text = ''
  }
  const parser = new Parser(
    {
      onopentag(name, attributes) {
        endText()
        around.add(name, 1)
        const classes = (attributes['class'] ?? '').split(/\s+/).filter((one) => one !== '')
        for (const one of all) one.open?.({ name, attributes, classes }, around)
      },
      ontext(part) {
        text += part
      },
      onclosetag(name) {
        endText()
        around.add(name, -1)
        for (const one of all) one.close?.(name, around)
      },
    },
    { decodeEntities: true },
  )
  parser.end(html)
  endText()
  for (const one of all) one.end?.()
  return {
    ...readers.head.part,
    ...readers.links.part,
    ...readers.forms.part,
    ...readers.lists.part,
    ...readers.times.part,
    ...readers.body.part,
    ...readers.files.part,
  }
}
