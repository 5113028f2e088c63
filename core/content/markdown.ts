/** From Markdown (CommonMark with tables and strikethrough) to safe HTML: markdown-it, then one allow-list. */
import MarkdownIt from 'markdown-it'
import sanitize from 'sanitize-html'
import { SafeHtml } from './safe-html.ts'

/** Changes whenever the same text would give other HTML; kept beside stored HTML. */
export const PIPELINE_VERSION = 1

const markdown = new MarkdownIt('commonmark', { html: true, linkify: false, typographer: false }).enable([
  'table',
  'strikethrough',
])

/** Markdown to HTML before sanitising; exported so that the CommonMark examples can be held against it. */
export const markdownToHtml = (text: string): string => markdown.render(text)

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
    ...['strong', 'sub', 'sup', 'time', 'u', 'var', 'wbr', 'div'],
  ],
  allowedAttributes: {
    a: ['href', 'title'],
    img: ['src', 'alt', 'title', 'width', 'height', 'loading'],
    abbr: ['title'],
    time: ['datetime'],
    ol: ['start', 'reversed'],
    pre: ['tabindex'],
    td: ['colspan', 'rowspan', 'align'],
    th: ['colspan', 'rowspan', 'align', 'scope'],
    code: [
      { name: 'class', multiple: false, values: [/^language-[a-z0-9+#-]{1,20}$/] as unknown as string[] },
    ],
  },
  allowedClasses: { code: [/^language-[a-z0-9+#-]{1,20}$/] },
  allowedSchemes: ['http', 'https', 'mailto', 'tel'],
  allowedSchemesAppliedToAttributes: ['href', 'src', 'cite'],
  allowProtocolRelative: false,
  disallowedTagsMode: 'discard',
  transformTags: {
    td: alignAsAttribute,
    // Wide code scrolls sideways; a keyboard must be able to reach it.
    pre: (tagName) => ({ tagName, attribs: { tabindex: '0' } }),
    th: alignAsAttribute,
    a: (tagName, attributes) => ({
      tagName,
      attribs: /^https?:/i.test(attributes['href'] ?? '')
        ? { ...attributes, rel: 'noopener nofollow' }
        : attributes,
    }),
  },
}
const OPTIONS: sanitize.IOptions = {
  ...ALLOW_LIST,
  allowedAttributes: {
    ...(ALLOW_LIST.allowedAttributes as object),
    a: ['href', 'title', 'rel'],
    code: ['class'],
  },
}

/** markdown-it aligns cells by style; a style attribute is not let through, so it becomes `align`. */
function alignAsAttribute(tagName: string, attributes: sanitize.Attributes): sanitize.Tag {
  const align = /^text-align:\s*(left|right|center)$/.exec(attributes['style'] ?? '')?.[1]
  return { tagName, attribs: align === undefined ? attributes : { ...attributes, align } }
}

/** Drops from HTML whatever the allow-list does not name. */
export const sanitizeHtml = (html: string): SafeHtml => new SafeHtml(sanitize(html, OPTIONS))

/** The pipeline: Markdown text to HTML that may be printed as it is. */
export const renderMarkdown = (text: string): SafeHtml => sanitizeHtml(markdownToHtml(text))
