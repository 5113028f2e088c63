/** What HTML may stand in a post or page: one list, which a definition can narrow and never widen. */
import { Parser } from 'htmlparser2'
import sanitize from 'sanitize-html'
import { ALLOWED_ELEMENTS } from '../../shapes/html-elements.ts'
import { SafeHtml } from './safe-html.ts'

/** Schemes of links and pictures; others, `javascript:` and `data:` among them, go with their attribute. */
export const ALLOWED_SCHEMES = ['http', 'https', 'mailto', 'tel'] as const

/** How a definition narrows the list. */
export interface HtmlRules {
  /** False: HTML that somebody types in a post is shown as the text it is. */
  typed: boolean
  /** Elements that nothing may have, whether typed or made from Markdown; their text is kept. */
  without: ReadonlySet<string>
}
export const WHOLE_LIST: HtmlRules = { typed: true, without: new Set() }

/** Names of elements as a definition writes them, that are on no list. */
export const unknownElements = (names: readonly string[]): string[] =>
  names.filter((name) => !ALLOWED_ELEMENTS.some((one) => one.name === name))

/** Names that the pipeline makes: the page's own, which its styles and links use, cannot be taken by a text. */
function withOwnId(tagName: string, attributes: sanitize.Attributes): sanitize.Tag {
  const { id, ...rest } = attributes
  return {
    tagName,
    attribs: id !== undefined && /^(h-|fn(ref)?\d)[a-z0-9:-]*$/.test(id) ? { ...rest, id } : rest,
  }
}

/** markdown-it aligns cells by style; a style attribute is not let through, so it becomes `align`. */
function alignAsAttribute(tagName: string, attributes: sanitize.Attributes): sanitize.Tag {
  const align = /^text-align:\s*(left|right|center)$/.exec(attributes['style'] ?? '')?.[1]
  return { tagName, attribs: align === undefined ? attributes : { ...attributes, align } }
}

const CLASSES: Readonly<Record<string, RegExp[]>> = {
  code: [/^language-[a-z0-9+#-]{1,20}$/],
  span: [/^(code-)?[a-z_]{1,30}$/],
  section: [/^footnotes$/],
  sup: [/^footnote-ref$/],
}

/** What the transformations below add to what may be written. */
const MADE: Readonly<Record<string, readonly string[]>> = { a: ['rel', 'id'], pre: ['tabindex'] }

const OPTIONS: sanitize.IOptions = {
  allowedTags: ALLOWED_ELEMENTS.map((one) => one.name),
  allowedAttributes: Object.fromEntries(
    ALLOWED_ELEMENTS.map(({ name, attributes }) => [
      name,
      [...attributes.filter((one) => one !== 'class' || name === 'code'), ...(MADE[name] ?? [])],
    ]),
  ),
  allowedClasses: CLASSES,
  allowedSchemes: [...ALLOWED_SCHEMES],
  allowedSchemesAppliedToAttributes: ['href', 'src', 'cite'],
  allowProtocolRelative: false,
  disallowedTagsMode: 'discard',
  // A box to tick in a list is all that is left of forms.
  exclusiveFilter: ({ tag, attribs }) => tag === 'input' && attribs['type'] !== 'checkbox',
  transformTags: {
    ...Object.fromEntries(['h1', 'h2', 'h3', 'h4', 'h5', 'h6', 'li', 'sup'].map((tag) => [tag, withOwnId])),
    input: (tagName, attributes) => ({ tagName, attribs: { ...attributes, disabled: '' } }),
    td: alignAsAttribute,
    // Wide code scrolls sideways; a keyboard must be able to reach it.
    pre: (tagName) => ({ tagName, attribs: { tabindex: '0' } }),
    th: alignAsAttribute,
    a: (tagName, attributes) => {
      const own = withOwnId(tagName, attributes)
      return /^https?:/i.test(attributes['href'] ?? '')
        ? { tagName, attribs: { ...own.attribs, rel: 'noopener nofollow' } }
        : own
    },
  },
}

/** Width and height of an image by its address, in pixels; undefined when it is not one of the blog's. */
export type ImageSizes = (address: string) => { width: number; height: number } | undefined

/**
 * Drops from HTML whatever the list does not name.
 * @param sizeOf so that images hold their place before they are loaded, and the page does not jump
 */
export function sanitizeHtml(
  html: string,
  { without }: HtmlRules = WHOLE_LIST,
  sizeOf: ImageSizes = () => undefined,
): SafeHtml {
  return new SafeHtml(
    sanitize(html, {
      ...OPTIONS,
      ...(without.size > 0
        ? { allowedTags: ALLOWED_ELEMENTS.map((one) => one.name).filter((name) => !without.has(name)) }
        : {}),
      transformTags: {
        ...OPTIONS.transformTags,
        img: (tagName, attributes) => {
          const size = sizeOf(attributes['src'] ?? '')
          const known = size && { width: String(size.width), height: String(size.height) }
          return { tagName, attribs: { ...known, loading: 'lazy', ...attributes } }
        },
      },
    }),
  )
}

export interface Dropped {
  /** As it would be typed: `<script>`, `onclick of <a>`, `href="javascript:…" of <a>`. */
  what: string
  times: number
}

/** What stands in one HTML and not in the other: what the list dropped. Read from both, not from the list. */
export function droppedBy(before: string, after: string): Dropped[] {
  const left = partsOf(after)
  const dropped: Dropped[] = []
  for (const [what, times] of partsOf(before)) {
    const gone = times - (left.get(what) ?? 0)
    if (gone > 0) dropped.push({ what, times: gone })
  }
  return dropped
}

/** Attributes whose value decides whether they may stand. */
const BY_VALUE = new Set(['href', 'src', 'class', 'id', 'type'])
const SHOWN_VALUE = 40

function partsOf(html: string): Map<string, number> {
  const parts = new Map<string, number>()
  const count = (what: string) => parts.set(what, (parts.get(what) ?? 0) + 1)
  const parser = new Parser(
    {
      onopentag(name, attributes) {
        count(`<${name}>`)
        for (const [key, value] of Object.entries(attributes)) {
          const shown = value.length > SHOWN_VALUE ? `${value.slice(0, SHOWN_VALUE)}…` : value
          count(BY_VALUE.has(key) ? `${key}="${shown}" of <${name}>` : `${key} of <${name}>`)
        }
      },
    },
    { decodeEntities: true },
  )
  parser.end(html)
  return parts
}
