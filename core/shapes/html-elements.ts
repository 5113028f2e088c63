/** The HTML elements that posts and pages may contain, with the attributes each of them may carry. */

/** Groups in which the workbench lists the elements. */
export const ELEMENT_GROUPS = ['Text', 'Blocks', 'Tables', 'Images', 'Disclosure', 'Task lists'] as const
export type ElementGroup = (typeof ELEMENT_GROUPS)[number]

export interface AllowedElement {
  name: string
  group: ElementGroup
  /** Attributes it may carry; any other attribute is dropped. */
  attributes: readonly string[]
}

const all = (group: ElementGroup, names: string): AllowedElement[] =>
  names.split(' ').map((name) => ({ name, group, attributes: ATTRIBUTES[name] ?? [] }))

const ATTRIBUTES: Readonly<Record<string, readonly string[]>> = {
  a: ['href', 'title'],
  img: ['src', 'alt', 'title', 'width', 'height', 'loading'],
  abbr: ['title'],
  time: ['datetime'],
  ol: ['start', 'reversed'],
  ...Object.fromEntries(['h1', 'h2', 'h3', 'h4', 'h5', 'h6', 'li'].map((tag) => [tag, ['id']])),
  sup: ['id', 'class'],
  input: ['type', 'checked', 'disabled'],
  span: ['class'],
  section: ['class'],
  code: ['class'],
  td: ['colspan', 'rowspan', 'align'],
  th: ['colspan', 'rowspan', 'align', 'scope'],
}

/** Other elements are dropped and their text is kept; scripts and styles are dropped together with their text. */
export const ALLOWED_ELEMENTS: readonly AllowedElement[] = [
  ...all('Text', 'a abbr b br cite code del em i ins kbd mark q s small span strong sub sup time u var wbr'),
  ...all('Blocks', 'h1 h2 h3 h4 h5 h6 p blockquote ul ol li dl dt dd hr pre div section'),
  ...all('Tables', 'table thead tbody tr th td caption'),
  ...all('Images', 'img figure figcaption'),
  ...all('Disclosure', 'details summary'),
  ...all('Task lists', 'input label'),
]
