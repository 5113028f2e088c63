/**
 * From Markdown (CommonMark with tables, strikethrough, task lists and footnotes) to safe HTML: markdown-it, then one
 * allow-list.
 */
import MarkdownIt from 'markdown-it'
import footnote from 'markdown-it-footnote'
import taskLists from 'markdown-it-task-lists'
import sanitize from 'sanitize-html'
import { numbered, slugOf } from '../slugs/slug.ts'
import { highlightCode } from './highlight.ts'
import { SafeHtml } from './safe-html.ts'

/** Changes whenever the same text would give other HTML; kept beside stored HTML. */
export const PIPELINE_VERSION = 2

/** Longest anchor of a heading, in characters. */
const ANCHOR_LIMIT = 60

const make = (highlight?: (code: string, language: string) => string) =>
  new MarkdownIt('commonmark', {
    html: true,
    linkify: false,
    typographer: false,
    ...(highlight ? { highlight } : {}),
  })
    .enable(['table', 'strikethrough'])
    .use(taskLists)
    .use(footnote)

const plain = make()
const forPages = make(highlightCode)

/** Anchors of headings: `## Why it whistles` is at `#h-why-it-whistles`, a second one at `…-2`. */
forPages.core.ruler.push('heading-anchors', ({ tokens }) => {
  const taken = new Set<string>()
  for (const [index, token] of tokens.entries()) {
    if (token.type !== 'heading_open') continue
    const text = (tokens[index + 1]?.children ?? []).map((one) => one.content).join('')
    const slug = slugOf(text, ANCHOR_LIMIT)
    if (slug === '') continue
    let anchor = slug
    for (let number = 2; taken.has(anchor); number++) anchor = numbered(slug, number, ANCHOR_LIMIT)
    taken.add(anchor)
    token.attrSet('id', `h-${anchor}`)
  }
})

/** Markdown to HTML before sanitising; exported so that published examples can be held against it. */
export const markdownToHtml = (text: string): string => plain.render(text)

/** What HTML may stand in a post. Everything else is dropped, its text kept; scripts and styles go with their text. */
export const ALLOW_LIST: sanitize.IOptions = {
  allowedTags: [
    ...[
      'h1',
      'h2',
      'h3',
      'h4',
      'h5',
      'h6',
      'p',
      'blockquote',
      'ul',
      'ol',
      'li',
      'dl',
      'dt',
      'dd',
      'hr',
      'pre',
    ],
    ...[
      'table',
      'thead',
      'tbody',
      'tr',
      'th',
      'td',
      'caption',
      'figure',
      'figcaption',
      'img',
      'details',
      'summary',
    ],
    ...[
      'a',
      'abbr',
      'b',
      'br',
      'cite',
      'code',
      'del',
      'em',
      'i',
      'ins',
      'kbd',
      'mark',
      'q',
      's',
      'small',
      'span',
    ],
    ...['strong', 'sub', 'sup', 'time', 'u', 'var', 'wbr', 'div', 'section', 'input'],
  ],
  allowedAttributes: {
    a: ['href', 'title'],
    img: ['src', 'alt', 'title', 'width', 'height', 'loading'],
    abbr: ['title'],
    time: ['datetime'],
    ol: ['start', 'reversed'],
    ...Object.fromEntries(['h1', 'h2', 'h3', 'h4', 'h5', 'h6', 'li', 'sup'].map((tag) => [tag, ['id']])),
    input: ['type', 'checked', 'disabled'],
    span: ['class'],
    pre: ['tabindex'],
    td: ['colspan', 'rowspan', 'align'],
    th: ['colspan', 'rowspan', 'align', 'scope'],
    code: [
      { name: 'class', multiple: false, values: [/^language-[a-z0-9+#-]{1,20}$/] as unknown as string[] },
    ],
  },
  allowedClasses: {
    code: [/^language-[a-z0-9+#-]{1,20}$/],
    span: [/^(code-)?[a-z_]{1,30}$/],
    section: ['footnotes'],
    sup: ['footnote-ref'],
  },
  allowedSchemes: ['http', 'https', 'mailto', 'tel'],
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
const OPTIONS: sanitize.IOptions = {
  ...ALLOW_LIST,
  allowedAttributes: {
    ...(ALLOW_LIST.allowedAttributes as object),
    a: ['href', 'title', 'rel', 'id'],
    code: ['class'],
  },
}

/** Names that this pipeline makes: the page's own, which its styles and links use, cannot be taken by a text. */
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

/** Drops from HTML whatever the allow-list does not name. */
export const sanitizeHtml = (html: string): SafeHtml => new SafeHtml(sanitize(html, OPTIONS))

/** Width and height of an image by its address, in pixels; undefined when it is not one of the blog's. */
export type ImageSizes = (address: string) => { width: number; height: number } | undefined

/**
 * The pipeline: Markdown text to HTML that may be printed as it is.
 * @param sizeOf so that images hold their place before they are loaded, and the page does not jump
 */
export function renderMarkdown(text: string, sizeOf: ImageSizes = () => undefined): SafeHtml {
  return new SafeHtml(
    sanitize(forPages.render(text), {
      ...OPTIONS,
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
