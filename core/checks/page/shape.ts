/** What is read of a page. */

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
  /** What identifies its start tag, e.g. `id="say"`; an empty text without anything. */
  mark: string
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
