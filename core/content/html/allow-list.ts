/** The allow-list of HTML in posts and pages. A definition can narrow it but not widen it. */
import { Parser } from 'htmlparser2'
import sanitize from 'sanitize-html'
import { ALLOWED_ELEMENTS } from '../../shapes/html-elements.ts'
import type { Embed } from '../../shapes/embeds.ts'
import { SafeHtml } from './safe-html.ts'
import { EMBED_CLASS } from './embedded.ts'
import { CODE_CLASS } from './highlight.ts'

/** Allowed URL schemes. An attribute with any other scheme, such as `javascript:` or `data:`, is removed. */
export const ALLOWED_SCHEMES = ['http', 'https', 'mailto', 'tel'] as const

/** How a definition narrows the allow-list. */
export interface HtmlRules {
  /** Whether HTML typed in a text is HTML. If false, it is shown as text. */
  typed: boolean
  /** Elements to remove, whether typed or rendered from Markdown. Their text is kept. */
  without: ReadonlySet<string>
  /** What texts may embed; nothing if it is missing. */
  embeds?: readonly Embed[]
}
export const WHOLE_LIST: HtmlRules = { typed: true, without: new Set() }

/** Returns the names that are not on the allow-list. */
export const unknownElements = (names: readonly string[]): string[] =>
  names.filter((name) => !ALLOWED_ELEMENTS.some((one) => one.name === name))

/** Keeps an id only if the pipeline generated it, so that no text can use an id of the page. */
function withOwnId(tagName: string, attributes: sanitize.Attributes): sanitize.Tag {
  const { id, ...rest } = attributes
  return {
    tagName,
    attribs: id !== undefined && /^(h-|fn(ref)?\d)[a-z0-9:-]*$/.test(id) ? { ...rest, id } : rest,
  }
}

/** Converts the alignment of a cell from the style that markdown-it sets, which is not allowed, to `align`. */
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

/** Whether the HTML of a text may have a class that is made from Markdown, whatever is typed. */
export const isClassOfTexts = (name: string): boolean =>
  name === EMBED_CLASS ||
  name.startsWith(CODE_CLASS) ||
  ['section', 'sup'].some((element) => CLASSES[element]?.some((one) => one.test(name)))

/** Attributes that the transformations below add. */
const MADE: Readonly<Record<string, readonly string[]>> = {
  a: ['rel', 'id', 'aria-label'],
  pre: ['tabindex'],
}

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
  // The only form control is the check box of a task list.
  exclusiveFilter: ({ tag, attribs }) => tag === 'input' && attribs['type'] !== 'checkbox',
  transformTags: {
    ...Object.fromEntries(['h1', 'h2', 'h3', 'h4', 'h5', 'h6', 'li', 'sup'].map((tag) => [tag, withOwnId])),
    input: (tagName, attributes) => ({ tagName, attribs: { ...attributes, disabled: '' } }),
    // The language of a code block may be typed in capitals.
    code: (tagName, { class: name, ...attributes }) => ({
      tagName,
      attribs: name === undefined ? attributes : { ...attributes, class: name.toLowerCase() },
    }),
    td: alignAsAttribute,
    // Wide code scrolls sideways and must be reachable by keyboard.
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

/** Returns the size of an image in pixels by its address, or undefined if it is not an image of the blog. */
export type ImageSizes = (address: string) => { width: number; height: number } | undefined

/**
 * Removes everything that is not on the allow-list.
 * @param sizeOf gives images their size, so that the page does not shift while they load
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
  /** E.g. `<script>`, `onclick of <a>`, `href="javascript:…" of <a>`. */
  what: string
  times: number
}

/** Lists what sanitizing removed, by comparing the HTML before and after it. */
export function droppedBy(before: string, after: string): Dropped[] {
  const left = partsOf(after)
  const dropped: Dropped[] = []
  for (const [what, times] of partsOf(before)) {
    const gone = times - (left.get(what) ?? 0)
    if (gone > 0) dropped.push({ what, times: gone })
  }
  return dropped
}

/** Attributes that are allowed or not by their value. */
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
