/** Extracts from a page its head, links, forms and resources, inline styles and scripts, and HTML that is shown as text. */
import { Parser } from 'htmlparser2'

export interface PageLink {
  href: string
  rel: string
  text: string
  /** Its `aria-label` or `title`; an empty text without one. */
  label: string
  /** Whether it is hidden from screen readers. */
  isHidden: boolean
  /** The value of `aria-current`; an empty text without one. */
  current: string
  /** The navigation that it is in, e.g. `Main`; null outside of any. */
  navigation: string | null
  /** Whether it is in the main content, and neither in a navigation nor in a list, a heading or a form. */
  isInMain: boolean
  /** The image in it, `svg` for a drawing in the page; an empty text without one. */
  image: string
  /** The number after its text, as in `Bicycles (12)`: inside the link, or after it in the same element; null without one. */
  count: number | null
}

export interface FormField {
  name: string
  type: string
  /** What is in it; of a choice, the selected option: the first one if none is. */
  value: string
  options: string[]
}

/** A form, with its fields as a browser sends them. */
export interface ReadForm {
  method: string
  action: string
  fields: FormField[]
}

/** What the head of a page says about it. */
export interface PageHead {
  /** The language of the page; null without one. */
  language: string | null
  title: string
  description: string | null
  canonical: string | null
  /** The viewport of phones; null without one. */
  viewport: string | null
  /** What search engines are told, e.g. `noindex`; empty without it. */
  robots: string
  /** The text of the first heading of level 1. */
  heading: string
  /** Whether it names the encoding of characters. */
  namesEncoding: boolean
  /** What other sites show of the page: the values of `og:…`. */
  shared: Map<string, string>
  /** The feeds that are offered. */
  feeds: { href: string; type: string }[]
  /** The address to which others are relative; null without a `<base>`. */
  base: string | null
}

/** An item of a list, without those of lists in it. */
export interface ListItem {
  /** The number of the list, from the start of the page. */
  list: number
  text: string
  /** The addresses to which it links. */
  hrefs: string[]
}

/** A `<time>`, or another element with `datetime`. */
export interface PageTime {
  /** The text, if it has no `datetime`. */
  value: string
  /** What readers see. */
  text: string
}

export interface PageResource {
  src: string
  /** E.g. `image` or `stylesheet`. */
  kind: string
}

export type InlineKind =
  'style attribute' | 'style element' | 'script attribute' | 'script element' | 'script address'

export interface ReadPage {
  head: PageHead
  links: PageLink[]
  forms: ReadForm[]
  /** The ids of its elements. */
  ids: Set<string>
  /** The classes of its elements. */
  classes: Set<string>
  /** The names of its elements. */
  elements: Set<string>
  /** The addresses of images without a width and a height. */
  unsized: string[]
  times: PageTime[]
  items: ListItem[]
  /** The addresses of `<link rel="prev">` and `<link rel="next">`. */
  neighbours: { rel: 'prev' | 'next'; href: string }[]
  resources: PageResource[]
  /** Styles and scripts in the page itself. */
  inline: { markup: string; kind: InlineKind }[]
  /** Texts that contain HTML tags. */
  escaped: string[]
  /** The scripts with JSON-LD, as written. */
  structured: string[]
  /** Whether it has a stylesheet that applies to screens of every width. */
  isStyled: boolean
  /** Scripts that browsers do not run because of their type. */
  idle: { src: string; type: string }[]
  /** Parts of the page that nobody sees or can use. */
  hidden: { name: string; attribute: string }[]
  /** Its lists by their start tags, e.g. `<ul class="tags">`, and whether one of them has items. */
  lists: Map<string, boolean>
  /** The start of the text in the paragraphs of the main content. */
  prose: string
  /** The classes of elements around the main heading, or around several paragraphs. */
  around: Set<string>
}

const RESOURCES: Readonly<Record<string, string>> = {
  img: 'image',
  script: 'script',
  source: 'source',
  video: 'video',
  audio: 'audio',
  iframe: 'frame',
  embed: 'embedded file',
  track: 'track',
}
const LINKED = /^(stylesheet|icon|apple-touch-icon|preload|modulepreload|manifest)$/
/** Elements whose text shows code. */
const CODE = new Set(['code', 'pre', 'textarea', 'script', 'style', 'samp', 'kbd', 'title'])
const TAGS = 'p|mark|div|span|a|br|strong|em|b|i|ul|ol|li|h[1-6]|img|blockquote|table|figure'
/** A tag that was escaped on the way, once or twice. Text about HTML rarely has a whole start tag outside of code. */
const SHOWN_TAG = new RegExp(
  // Each part ends where another tag may start, so long texts are read once.
  `<\\/?(?:${TAGS})(?:\\s[^<>]*)?>|&lt;\\/?(?:${TAGS})(?:\\s[^<>&]*)?&gt;`,
  'i',
)
/** Scripts that only hold data. */
const DATA = /^(application\/(ld\+)?json|text\/plain)$/

/** Elements that a number after a link may be in. */
const AROUND_COUNTS = new Set(['span', 'small', 'sup', 'b', 'i', 'em', 'data', 'bdi'])
/** A number that is all that follows a link. */
const COUNT = /^\W? ?(\d[\d.,]*)(?: ?posts?)? ?\W?$/i
/** A number at the end of a link's text. */
const COUNT_IN_LINK = /\S ?\((\d[\d.,]*)\)$/
/** Longer texts are no number beside a link. */
const LONGEST_COUNT = 30
/** So much of a page's text is kept, in characters. */
const LONGEST_PROSE = 2_000
/** Longer links are not looked at. */
const LONGEST_LINK = 200

/** Returns the number in a link, or in the text after it; null without one. */
function countOf(link: string, after: string): number | null {
  const [own, other] = [link, after].map((one) => one.replace(/\s+/g, ' ').trim())
  const [, digits] =
    (other !== undefined && other.length <= LONGEST_COUNT ? COUNT.exec(other) : null) ??
    (own !== undefined && own.length <= LONGEST_LINK ? COUNT_IN_LINK.exec(own) : null) ??
    []
  return digits === undefined ? null : Number(digits.replace(/[.,]/g, ''))
}

export function readPage(html: string): ReadPage {
  const page: ReadPage = {
    head: {
      language: null,
      title: '',
      description: null,
      canonical: null,
      viewport: null,
      ...{ robots: '', heading: '', namesEncoding: false, shared: new Map(), feeds: [], base: null },
    },
    ...{
      links: [],
      forms: [],
      ids: new Set(),
      classes: new Set(),
      elements: new Set(),
      unsized: [],
      times: [],
      items: [],
      neighbours: [],
      resources: [],
      inline: [],
      escaped: [],
      structured: [],
      isStyled: false,
      ...{ idle: [], hidden: [], lists: new Map() },
      ...{ prose: '', around: new Set() },
    },
  }
  let code = 0
  let link: PageLink | undefined
  let depth = 0
  /** The link whose number may follow, and the depth of the element that it is in. */
  let counted: { link: PageLink; depth: number; after: string } | undefined
  let form: ReadForm | undefined
  let choice: FormField | undefined
  let time: PageTime | undefined
  let isUndated = false
  /** The names and classes of the elements around, and how many paragraphs are inside elements with a class. */
  const open: { name: string; classes: string[] }[] = []
  const paragraphs = new Map<string, number>()
  /** The navigations around. */
  const navigations: string[] = []
  let unnamed = 0
  /** The lists around, and how many there were; the items around. */
  const lists: { number: number; isEmpty: boolean; markup: string }[] = []
  let listed = 0
  const items: ListItem[] = []
  let isProse = false
  let isTitle = false
  let isStructured = false
  let heading: 'before' | 'in' | 'after' = 'before'
  const endCount = () => {
    if (!counted) return
    const { link: own, after } = counted
    counted = undefined
    own.count = countOf(own.text, after)
  }
  const note = (markup: string, kind: InlineKind) => page.inline.push({ markup, kind })
  let text = ''
  /** Reads the text before a tag. It arrives in parts, one for each entity. */
  const endText = () => {
    if (link) link.text += text
    else if (counted) counted.after += text
    if (isTitle) page.head.title += text
    if (isStructured) page.structured.push(text)
    if (time) time.text += text
    const item = items.at(-1)
    if (item) item.text += text
    if (heading === 'in') page.head.heading += text
    if (isProse && page.prose.length < LONGEST_PROSE) page.prose += `${text} `
    const shown = code === 0 ? SHOWN_TAG.exec(text) : null
    if (shown) page.escaped.push(text.slice(Math.max(0, shown.index - 40), shown.index + 80).trim())
    text = ''
  }
  const parser = new Parser(
    {
      onopentag(name, attributes) {
        endText()
        depth++
        if (!AROUND_COUNTS.has(name)) endCount()
        if (CODE.has(name)) code++
        const { href, src, rel = '', id } = attributes
        page.elements.add(name)
        if (id !== undefined) page.ids.add(id)
        const classes = (attributes['class'] ?? '').split(/\s+/).filter((one) => one !== '')
        for (const one of classes) page.classes.add(one)
        open.push({ name, classes })
        if (name === 'p') isProse = open.some((one) => one.name === 'main' || one.name === 'article')
        if (name === 'p' || name === 'h1')
          for (const one of new Set(open.flatMap((element) => element.classes))) {
            const inside = (paragraphs.get(one) ?? 0) + 1
            paragraphs.set(one, inside)
            if (name === 'h1' || inside >= SEVERAL) page.around.add(one)
          }
        if (name === 'img' && src !== undefined && !isSized(attributes)) page.unsized.push(src)
        if (name === 'ul' || name === 'ol') {
          lists.push({ number: listed++, isEmpty: true, markup: startTag(name, attributes) })
        }
        if (name === 'li') {
          const list = lists.at(-1)
          if (list) list.isEmpty = false
          const item = { list: list?.number ?? -1, text: '', hrefs: [] }
          items.push(item)
          page.items.push(item)
        }
        if (name === 'nav') {
          const { id, 'aria-label': label, class: named } = attributes
          navigations.push(label ?? named ?? id ?? `nav ${++unnamed}`)
        }
        if (name === 'time' || attributes['datetime'] !== undefined) {
          page.times.push((time = { value: attributes['datetime'] ?? '', text: '' }))
          isUndated = attributes['datetime'] === undefined
        }
        if (name === 'link' && href !== undefined && (rel === 'prev' || rel === 'next'))
          page.neighbours.push({ rel, href })
        readHead(page.head, name, attributes)
        if (name === 'title' && page.head.title === '') isTitle = true
        if (name === 'script')
          isStructured = /^application\/ld\+json$/i.test(attributes['type']?.trim() ?? '')
        if (name === 'h1' && heading === 'before') heading = 'in'
        if (name === 'form')
          page.forms.push(
            (form = {
              method: (attributes['method'] ?? 'get').toLowerCase(),
              action: attributes['action'] ?? '',
              fields: [],
            }),
          )
        if (form && FIELDS.has(name) && attributes['name'] !== undefined) {
          const type = name === 'input' ? (attributes['type'] ?? 'text').toLowerCase() : name
          const field = { name: attributes['name'], type, value: attributes['value'] ?? '', options: [] }
          form.fields.push(field)
          if (name === 'select') choice = field
        }
        if (name === 'option' && choice && attributes['value'] !== undefined) {
          const { value } = attributes
          if (choice.options.length === 0 || attributes['selected'] !== undefined) choice.value = value
          choice.options.push(value)
        }
        if (name === 'a' && href !== undefined) {
          const current = attributes['aria-current'] ?? ''
          const navigation = navigations.at(-1) ?? null
          items.at(-1)?.hrefs.push(href)
          page.links.push(
            (link = {
              ...{ href, rel, text: '', current, navigation, image: '', count: null },
              isInMain: open.some((one) => one.name === 'main') && !open.some((one) => APART.has(one.name)),
              label: attributes['aria-label'] ?? attributes['title'] ?? '',
              isHidden: attributes['aria-hidden'] === 'true',
            }),
          )
        }
        if (name === 'img' && link && link.image === '') link.image = src ?? ''
        // Whether a drawing in the page has a name is a question for a browser.
        if (name === 'svg' && link && link.image === '') link.image = name
        const kind = RESOURCES[name]
        if (kind !== undefined && src !== undefined) page.resources.push({ src, kind })
        for (const one of (attributes['srcset'] ?? '').split(',')) {
          const [address = ''] = one.trim().split(/\s+/)
          if (address !== '') page.resources.push({ src: address, kind: 'image' })
        }
        const [linked] = rel.split(/\s+/).filter((one) => LINKED.test(one))
        if (name === 'link' && href !== undefined && linked !== undefined)
          page.resources.push({ src: href, kind: linked })
        if (attributes['style'] !== undefined) note(`<${name} style="…">`, 'style attribute')
        const handler = Object.keys(attributes).find((one) => /^on[a-z]+$/.test(one))
        if (handler !== undefined) note(`<${name} ${handler}="…">`, 'script attribute')
        if (/^\s*javascript:/i.test(href ?? '')) note(`<${name} href="javascript:…">`, 'script address')
        if (name === 'style') note('<style>', 'style element')
        const media = attributes['media'] ?? ''
        const isSheet = name === 'style' || (name === 'link' && /\bstylesheet\b/.test(rel))
        if (isSheet && !/^\s*(print|speech)\s*$|\bmax-(device-)?width\b/.test(media)) page.isStyled = true
        if (name === 'script' && src !== undefined && !RUN.test(attributes['type'] ?? ''))
          page.idle.push({ src, type: attributes['type'] ?? '' })
        const hiding = HIDING.find((one) => attributes[one] !== undefined)
        if (hiding !== undefined && LANDMARKS.has(name)) page.hidden.push({ name, attribute: hiding })
        if (name === 'script' && src === undefined && !DATA.test(attributes['type'] ?? ''))
          note('<script>', 'script element')
      },
      ontext(part) {
        text += part
      },
      onclosetag(name) {
        endText()
        depth--
        if (CODE.has(name)) code--
        if (name === 'title') isTitle = false
        if (name === 'p') isProse = false
        if (name === 'script') isStructured = false
        open.pop()
        if (time && isUndated) time.value = time.text.trim()
        if (name === 'time' || name === 'del' || name === 'ins') time = undefined
        if (name === 'nav') navigations.pop()
        if (name === 'ul' || name === 'ol') {
          const list = lists.pop()
          if (list) page.lists.set(list.markup, !list.isEmpty || page.lists.get(list.markup) === true)
        }
        if (name === 'li') items.pop()
        if (name === 'h1' && heading === 'in') heading = 'after'
        if (name === 'form') form = undefined
        if (name === 'select') choice = undefined
        if (counted && depth < counted.depth) endCount()
        if (name === 'a' && link) {
          counted = { link, depth, after: '' }
          link = undefined
        }
      },
    },
    { decodeEntities: true },
  )
  parser.end(html)
  endText()
  endCount()
  return page
}

/** Whether a browser knows the proportions of an image before it arrives. */
const isSized = ({ width, height }: Readonly<Record<string, string>>) =>
  [width, height].every((one) => /^\s*\d/.test(one ?? ''))

/** Returns a start tag with what identifies it. */
const startTag = (name: string, attributes: Readonly<Record<string, string>>): string => {
  const [own] = ['class', 'id', 'aria-label'].filter((one) => attributes[one] !== undefined)
  return own === undefined ? `<${name}>` : `<${name} ${own}="${attributes[own] ?? ''}">`
}

const FIELDS = new Set(['input', 'select', 'textarea', 'button'])

/** The types of Atom (RFC 4287), RSS, and JSON Feed 1.1. */
const FEED = /^application\/((atom|rss)\+xml|feed\+json)\b/

/** The types of scripts that browsers run or read (HTML, section 4.12.1). */
const RUN = /^\s*(|module|importmap|speculationrules|(text|application)\/(x-)?(java|ecma)script)\s*$/i
const HIDING = ['hidden', 'inert']
const LANDMARKS = new Set(['main', 'header', 'h1', 'article'])

/** Elements with links of their own kind. */
const APART = new Set(['nav', 'li', 'form', 'h1', 'aside', 'header', 'footer'])
/** So many paragraphs are content, and not a note. */
const SEVERAL = 3

const isEncoding = (attributes: Readonly<Record<string, string>>): boolean =>
  attributes['charset'] !== undefined || /^content-type$/i.test(attributes['http-equiv'] ?? '')

function readHead(head: PageHead, name: string, attributes: Readonly<Record<string, string>>): void {
  if (name === 'base') head.base = attributes['href'] ?? head.base
  else if (name === 'html') head.language = attributes['lang'] ?? null
  else if (name === 'meta' && attributes['name'] === 'viewport') head.viewport = attributes['content'] ?? ''
  else if (name === 'meta' && attributes['name'] === 'robots') head.robots = attributes['content'] ?? ''
  else if (name === 'meta' && attributes['name'] === 'description')
    head.description = attributes['content'] ?? ''
  else if (name === 'meta' && isEncoding(attributes)) head.namesEncoding = true
  else if (name === 'meta' && attributes['property']?.startsWith('og:') === true)
    head.shared.set(attributes['property'], attributes['content'] ?? '')
  else if (name === 'link' && attributes['rel'] === 'alternate' && FEED.test(attributes['type'] ?? ''))
    head.feeds.push({ href: attributes['href'] ?? '', type: attributes['type'] ?? '' })
  else if (name === 'link' && attributes['rel'] === 'canonical') head.canonical = attributes['href'] ?? ''
}

/** Returns the path of an address on this blog; undefined for others, and for a part of the same page. */
export const pathOf = (href: string, base: string): string | undefined => {
  const own = ownPath(href, base)
  return own === undefined ? undefined : withoutQuery(own)
}

/** Returns a path without its query string. */
export const withoutQuery = (path: string): string => path.replace(/\?.*$/s, '')

/** Returns the path and query string of an address on this blog; undefined for others, and for a part of the same page. */
export function ownPath(href: string, base: string): string | undefined {
  if (/^\s*(#|mailto:|tel:|data:|javascript:)/i.test(href)) return undefined
  try {
    const url = new URL(href.trim(), `http://blog.invalid${base}`)
    return url.host === 'blog.invalid' ? url.pathname + url.search : undefined
  } catch {
    return undefined
  }
}
