/** Extracts from a page its links and resources, inline styles and scripts, and HTML that is shown as text. */
import { Parser } from 'htmlparser2'

export interface PageLink {
  href: string
  rel: string
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
  links: PageLink[]
  resources: PageResource[]
  /** Styles and scripts in the page itself. */
  inline: { markup: string; kind: InlineKind }[]
  /** Texts that contain HTML tags. */
  escaped: string[]
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
/** A tag that was escaped on the way. Text about HTML rarely has a whole start tag outside of code. */
const SHOWN_TAG =
  /<\/?(?:p|div|span|a|br|strong|em|b|i|ul|ol|li|h[1-6]|img|blockquote|table|figure)(?:\s[^<>]*)?>/i
/** Scripts that only hold data. */
const DATA = /^(application\/(ld\+)?json|text\/plain)$/

export function readPage(html: string): ReadPage {
  const page: ReadPage = { links: [], resources: [], inline: [], escaped: [] }
  let code = 0
  let link: PageLink | undefined
  const note = (markup: string, kind: InlineKind) => page.inline.push({ markup, kind })
  let text = ''
  /** Reads the text before a tag. It arrives in parts, one for each entity. */
  const endText = () => {
    if (link) link.text += text
    const shown = code === 0 ? SHOWN_TAG.exec(text) : null
    if (shown) page.escaped.push(text.slice(Math.max(0, shown.index - 40), shown.index + 80).trim())
    text = ''
  }
  const parser = new Parser(
    {
      onopentag(name, attributes) {
        endText()
        if (CODE.has(name)) code++
        const { href, src, rel = '' } = attributes
        if (name === 'a' && href !== undefined) page.links.push((link = { href, rel, text: '' }))
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
        if (name === 'script' && src === undefined && !DATA.test(attributes['type'] ?? ''))
          note('<script>', 'script element')
      },
      ontext(part) {
        text += part
      },
      onclosetag(name) {
        endText()
        if (CODE.has(name)) code--
        if (name === 'a') link = undefined
      },
    },
    { decodeEntities: true },
  )
  parser.end(html)
  endText()
  return page
}

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
