/**
 * Renders the text of a comment: a subset of Markdown (CommonMark) with paragraphs, line breaks, emphasis, code, quotes,
 * lists and links. HTML is shown as typed; headings and images do not exist.
 */
import MarkdownIt from 'markdown-it'
import { SafeHtml } from '../content/html/safe-html.ts'
import { remembering } from '../shapes/remember.ts'

/** Links of readers: search engines do not follow them, and the page that opens cannot reach this one. */
const REL = 'ugc nofollow noopener'

const markdown = new MarkdownIt('zero', { html: false, breaks: true, linkify: true, maxNesting: 12 }).enable([
  'newline',
  'escape',
  'backticks',
  'emphasis',
  'link',
  'autolink',
  'linkify',
  'entity',
  'blockquote',
  'list',
  'fence',
])
markdown.linkify.set({ fuzzyLink: false, fuzzyEmail: false, fuzzyIP: false })
// Other schemes could run code or reach programs of the reader.
markdown.validateLink = (url) => /^https?:\/\//i.test(url)
markdown.renderer.rules['link_open'] = (tokens, index, options, _, renderer) => {
  tokens[index]?.attrSet('rel', REL)
  return renderer.renderToken(tokens, index, options)
}

/** The length of all texts whose HTML is remembered, in characters. */
const REMEMBERED = 4_000_000

/** Renders a text. The same text always gives the same HTML, so it is not stored. */
export const commentHtml: (text: string) => SafeHtml = remembering(
  (text) => new SafeHtml(markdown.render(text).trim()),
  REMEMBERED,
)

/** Counts the links of a comment, as they would be shown or as they are typed. */
export function countLinks(text: string): number {
  const shown = commentHtml(text).html.match(/<a /g)?.length ?? 0
  const typed = text.match(/https?:\/\/|<a\b|\[url/gi)?.length ?? 0
  return Math.max(shown, typed)
}
