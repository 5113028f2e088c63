/** Reads lists and their items. */
import { markOf } from './mark.ts'
import type { PartReader } from './part.ts'
import type { ListItem, ReadPage } from './shape.ts'

const startTag = (name: string, mark: string) => (mark === '' ? `<${name}>` : `<${name} ${mark}>`)

export function readLists(): PartReader<Pick<ReadPage, 'items' | 'lists'>> {
  const items: ListItem[] = []
  const lists = new Map<string, boolean>()
  /** The lists and the items around. */
  const openLists: { number: number; isEmpty: boolean; markup: string }[] = []
  const openItems: ListItem[] = []
  let listed = 0
  return {
    part: { items, lists },
    open({ name, attributes }) {
      if (name === 'ul' || name === 'ol')
        openLists.push({ number: listed++, isEmpty: true, markup: startTag(name, markOf(attributes)) })
      if (name === 'li') {
        const list = openLists.at(-1)
        if (list) list.isEmpty = false
        const item = { list: list?.number ?? -1, text: '', hrefs: [] }
        openItems.push(item)
        items.push(item)
      }
      const { href } = attributes
      if (name === 'a' && href !== undefined) openItems.at(-1)?.hrefs.push(href)
    },
    text(text) {
      const item = openItems.at(-1)
      if (item) item.text += text
    },
    close(name) {
      if (name === 'li') openItems.pop()
      if (name !== 'ul' && name !== 'ol') return
      const list = openLists.pop()
      if (list) lists.set(list.markup, !list.isEmpty || lists.get(list.markup) === true)
    },
  }
}
