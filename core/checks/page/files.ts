/** Reads what a page loads, and the styles and scripts that are in the page itself. */
import type { PageElement, PartReader } from './part.ts'
import type { InlineKind, ReadPage } from './shape.ts'

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
/** Scripts that only hold data. */
const DATA = /^(application\/(ld\+)?json|text\/plain)$/

/** The types of scripts that browsers run or read (HTML, section 4.12.1). */
const RUN = /^\s*(|module|importmap|speculationrules|(text|application)\/(x-)?(java|ecma)script)\s*$/i

/** Whether a browser knows the proportions of an image before it arrives. */
const isSized = ({ width, height }: Readonly<Record<string, string>>) =>
  [width, height].every((one) => /^\s*\d/.test(one ?? ''))

/** Returns what an element loads. */
function resourcesOf({ name, attributes }: PageElement): ReadPage['resources'] {
  const { src, href, rel = '', srcset = '' } = attributes
  const kind = RESOURCES[name]
  const linked = name === 'link' ? rel.split(/\s+/).find((one) => LINKED.test(one)) : undefined
  return [
    ...(kind !== undefined && src !== undefined ? [{ src, kind }] : []),
    ...srcset
      .split(',')
      .map((one) => one.trim().split(/\s+/)[0] ?? '')
      .filter((one) => one !== '')
      .map((one) => ({ src: one, kind: 'image' })),
    ...(linked !== undefined && href !== undefined ? [{ src: href, kind: linked }] : []),
  ]
}

/** Returns the styles and scripts in an element. */
function inlineOf({ name, attributes }: PageElement): ReadPage['inline'] {
  const found: ReadPage['inline'] = []
  const note = (markup: string, kind: InlineKind) => found.push({ markup, kind })
  if (attributes['style'] !== undefined) note(`<${name} style="…">`, 'style attribute')
  const handler = Object.keys(attributes).find((one) => /^on[a-z]+$/.test(one))
  if (handler !== undefined) note(`<${name} ${handler}="…">`, 'script attribute')
  if (/^\s*javascript:/i.test(attributes['href'] ?? ''))
    note(`<${name} href="javascript:…">`, 'script address')
  if (name === 'style') note('<style>', 'style element')
  if (name === 'script' && attributes['src'] === undefined && !DATA.test(attributes['type'] ?? ''))
    note('<script>', 'script element')
  return found
}

type Files = Pick<ReadPage, 'resources' | 'unsized' | 'inline' | 'structured' | 'isStyled' | 'idle'>

export function readFiles(): PartReader<Files> {
  const files: Files = {
    resources: [],
    unsized: [],
    inline: [],
    structured: [],
    isStyled: false,
    idle: [],
  }
  let isStructured = false
  return {
    part: files,
    open(element) {
      const { name, attributes } = element
      const { src, type = '', media = '', rel = '' } = attributes
      files.resources.push(...resourcesOf(element))
      files.inline.push(...inlineOf(element))
      if (name === 'img' && src !== undefined && !isSized(attributes)) files.unsized.push(src)
      const isSheet = name === 'style' || (name === 'link' && /\bstylesheet\b/.test(rel))
      if (isSheet && !/^\s*(print|speech)\s*$|\bmax-(device-)?width\b/.test(media)) files.isStyled = true
      if (name !== 'script') return
      isStructured = /^application\/ld\+json$/i.test(type.trim())
      if (src !== undefined && !RUN.test(type)) files.idle.push({ src, type })
    },
    text(text) {
      if (isStructured) files.structured.push(text)
    },
    close(name) {
      if (name === 'script') isStructured = false
    },
  }
}
