/**
 * Renders Markdown (CommonMark with tables, strikethrough, task lists and footnotes) to safe HTML with markdown-it and the
 * allow-list.
 */
import MarkdownIt, { type StateCore, type Token } from 'markdown-it'
import footnote from 'markdown-it-footnote'
import taskLists from 'markdown-it-task-lists'
import { hashOf } from '../../shapes/hash.ts'
import { numbered, slugOf } from '../../slugs/slug.ts'
import { highlightCode } from './highlight.ts'
import { sanitizeHtml, WHOLE_LIST, type HtmlRules, type ImageSizes } from './allow-list.ts'
import { linkEmbeds, withEmbeds, type EmbedEnvironment } from './embedded.ts'
import { withPictures } from './pictures.ts'
import { SafeHtml } from './safe-html.ts'

/** Grows when the same Markdown would give different HTML or a different excerpt. It is stored with the HTML. */
const PIPELINE_VERSION = 5

/** The maximum length of a heading's anchor, in characters. */
const ANCHOR_LIMIT = 60

/** Identifies the pipeline that rendered HTML: its version, and how the allow-list was narrowed. */
export const pipelineOf = ({ typed, without, embeds = [] }: HtmlRules): string =>
  [
    String(PIPELINE_VERSION),
    ...(typed ? [] : ['untyped']),
    ...(without.size > 0 ? [`without ${[...without].sort().join(' ')}`] : []),
    ...(embeds.length > 0 ? [`embeds ${hashOf(JSON.stringify(embeds))}`] : []),
  ].join(' ')

const make = (highlight?: (code: string, language: string) => string, html = true) => {
  const markdown = new MarkdownIt('commonmark', {
    html,
    linkify: false,
    typographer: false,
    ...(highlight ? { highlight } : {}),
  })
    .enable(['table', 'strikethrough'])
    .use(taskLists)
    .use(footnote)
  if (highlight) {
    nameBackLinks(markdown)
    markdown.core.ruler.push('name-tasks', nameTasks)
  }
  return markdown
}

/** The text of a task is the name of its check box. The plugin's own option for that applies to all its users at once. */
function nameTasks({ tokens, Token: Made }: StateCore): void {
  const label = (markup: string) => Object.assign(new Made('html_inline', '', 0), { content: markup })
  for (const { children } of tokens)
    if (children?.[0]?.content.startsWith('<input class="task-list-item-checkbox"')) {
      children.unshift(label('<label>'))
      children.push(label('</label>'))
    }
}

/** The links from footnotes back to the text show an arrow only, which says nothing when it is read aloud. */
function nameBackLinks({ renderer }: InstanceType<typeof MarkdownIt>): void {
  const shown = renderer.rules['footnote_anchor']
  renderer.rules['footnote_anchor'] = (...all) => {
    const [tokens, index] = all
    const { id = 0 } = (tokens[index]?.meta ?? {}) as { id?: number }
    return (shown?.(...all) ?? '').replace('<a ', `<a aria-label="Back to reference ${id + 1}" `)
  }
}

const plain = make()
const forPages = make(highlightCode)
const untyped = make(highlightCode, false)

/** Gives headings anchors: `## Why it whistles` gets `#h-why-it-whistles`, and a second one `…-2`. */
const headingAnchors = ({ tokens }: { tokens: Token[] }) => {
  const taken = new Set<string>()
  /** The next number of each anchor: counting again from 2 would take long for many equal headings. */
  const numbers = new Map<string, number>()
  for (const [index, token] of tokens.entries()) {
    if (token.type !== 'heading_open') continue
    const text = (tokens[index + 1]?.children ?? []).map((one) => one.content).join('')
    const slug = slugOf(text, ANCHOR_LIMIT)
    if (slug === '') continue
    let anchor = slug
    let number = numbers.get(slug) ?? 2
    for (; taken.has(anchor); number++) anchor = numbered(slug, number, ANCHOR_LIMIT)
    numbers.set(slug, number)
    taken.add(anchor)
    token.attrSet('id', `h-${anchor}`)
  }
}

/** An image that is a paragraph of its own and has a title is a figure with the title as its caption. */
const captions = ({ tokens, Token: Made }: StateCore) => {
  const made = (type: string, tag: string, nesting: -1 | 0 | 1) => new Made(type, tag, nesting)
  // From the end, since tokens are added.
  for (let index = tokens.length - 2; index > 0; index--) {
    const [open, inline, close] = tokens.slice(index - 1, index + 2)
    const [image, ...more] = inline?.children ?? []
    const caption = image?.type === 'image' && more.length === 0 ? image.attrGet('title') : null
    if (!open || !close || !image || caption === null || caption === '') continue
    if (open.type !== 'paragraph_open' || open.hidden) continue
    open.tag = close.tag = 'figure'
    image.attrs = (image.attrs ?? []).filter(([name]) => name !== 'title')
    const text = Object.assign(made('text', '', 0), { content: caption })
    tokens.splice(
      index + 1,
      0,
      made('figcaption_open', 'figcaption', 1),
      Object.assign(made('inline', '', 0), { content: caption, children: [text] }),
      made('figcaption_close', 'figcaption', -1),
    )
  }
}
for (const one of [forPages, untyped]) {
  one.core.ruler.push('heading-anchors', headingAnchors)
  one.core.ruler.push('captions', captions)
  one.core.ruler.push('embeds', linkEmbeds)
}

/** The parts of a Markdown text, as the pages read it. */
export const markdownTokens = (text: string): Token[] => plain.parse(text, {})

/** Renders Markdown without sanitizing, for comparison with published examples. */
export const markdownToHtml = (text: string): string => plain.render(text)

/** Renders Markdown to the HTML that is then sanitized. */
export const markdownForPages = (text: string, { typed, embeds }: HtmlRules): string =>
  (typed ? forPages : untyped).render(text, { embeds } satisfies EmbedEnvironment)

export interface Rendering {
  /** How the definition narrows the allow-list. */
  rules?: HtmlRules | undefined
  sizeOf?: ImageSizes | undefined
}

/** Renders Markdown to HTML that is safe to print without escaping. */
export function renderMarkdown(text: string, { rules = WHOLE_LIST, sizeOf }: Rendering = {}): SafeHtml {
  const { html } = sanitizeHtml(markdownForPages(text, rules), rules, sizeOf)
  return new SafeHtml(withEmbeds(sizeOf ? withPictures(html, sizeOf) : html, rules.embeds ?? []))
}
