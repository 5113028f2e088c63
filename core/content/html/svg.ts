/**
 * Makes SVG images safe. The file is parsed strictly as XML and rewritten with only the elements that draw. Anything that
 * runs, loads, embeds or links is removed and reported with its line (SVG 2 §2.3; OWASP, SVG in uploads).
 */
import type { Worded } from '../../shapes/catalogue.ts'
import { SVG_PROBLEMS } from '../problems.ts'
import { SaxesParser, type SaxesTagNS } from 'saxes'

/** Elements that draw. All others are removed with their content. */
const SHAPES = new Set(
  (
    'svg g defs symbol use path rect circle ellipse line polyline polygon text tspan textPath title desc ' +
    'linearGradient radialGradient stop clipPath mask pattern marker switch style ' +
    'filter feBlend feColorMatrix feComponentTransfer feComposite feConvolveMatrix feDiffuseLighting ' +
    'feDisplacementMap feDistantLight feDropShadow feFlood feFuncA feFuncB feFuncG feFuncR feGaussianBlur feMerge ' +
    'feMergeNode feMorphology feOffset fePointLight feSpecularLighting feSpotLight feTile feTurbulence'
  ).split(' '),
)
/** Elements that are removed without their content, such as a link around a drawing. */
const UNWRAPPED = new Set(['a'])
const SVG = 'http://www.w3.org/2000/svg'
const XLINK = 'http://www.w3.org/1999/xlink'
const MAXIMUM_DEPTH = 200

export interface Removed {
  /** E.g. `<script>` or `onload of <svg>`. */
  what: string
  line: number
}

export type SvgResult =
  | { ok: true; svg: string; width: number; height: number; removed: Removed[] }
  | { ok: false; line: number | null; problem: Worded }

/** Makes an SVG image safe. `width` and `height` are CSS pixels, rounded, at least 1. */
export function cleanSvg(text: string): SvgResult {
  if (text.trim() === '') return { ok: false, line: null, problem: SVG_PROBLEMS['svg-empty']() }
  const parser = new SaxesParser({ xmlns: true, position: true })
  const out: string[] = []
  const removed: Removed[] = []
  /** What happens to each open element: it is written, only its content is, or nothing is. */
  const open: ('written' | 'unwrapped' | 'removed')[] = []
  let style: string[] | undefined
  let size: { width: number; height: number } | undefined
  let failure: { line: number; problem: Worded } | undefined
  const isRemoved = () => open.at(-1) === 'removed'

  parser.on('error', (error) => {
    const reason = error.message.replace(/^\d+:\d+: /, '').replace(/\.$/, '')
    failure ??= { line: parser.line, problem: SVG_PROBLEMS['svg-xml-invalid'](reason) }
  })
  parser.on('opentag', (tag) => {
    if (failure) return
    if (open.length === 0) {
      if (tag.local !== 'svg' || tag.uri !== SVG) {
        failure = { line: parser.line, problem: SVG_PROBLEMS['svg-root-missing']() }
        return
      }
      size = sizeOf(tag)
      if (!size) failure = { line: parser.line, problem: SVG_PROBLEMS['svg-size-missing']() }
    }
    if (open.length > MAXIMUM_DEPTH) {
      failure = { line: parser.line, problem: SVG_PROBLEMS['svg-too-deep'](MAXIMUM_DEPTH) }
      // Parsing the rest, however deep, would take long.
      throw new Error('The drawing is nested too deeply.')
    }
    if (isRemoved()) {
      open.push('removed')
      return
    }
    const isShape = tag.uri === SVG && SHAPES.has(tag.local)
    if (!isShape) {
      // Metadata of drawing programs is removed without a report.
      if (tag.uri === SVG || tag.uri === '') removed.push({ what: `<${tag.name}>`, line: parser.line })
      open.push(tag.uri === SVG && UNWRAPPED.has(tag.local) ? 'unwrapped' : 'removed')
      return
    }
    const attributes = Object.values(tag.attributes).flatMap(({ local, uri, prefix, value }) => {
      if (prefix === 'xmlns' || local === 'xmlns') return []
      const kept = safeAttribute(tag.local, local, uri, value)
      if (kept !== undefined) return [kept]
      if (uri === '' || uri === XLINK) removed.push({ what: `${local} of <${tag.local}>`, line: parser.line })
      return []
    })
    const own = open.length === 0 ? [`xmlns="${SVG}"`] : []
    out.push(`<${[tag.local, ...own, ...attributes].join(' ')}>`)
    open.push('written')
    if (tag.local === 'style') style = []
  })
  parser.on('closetag', (tag) => {
    if (failure || open.pop() !== 'written') return
    if (tag.local === 'style' && style) {
      const css = style.join('')
      if (isSafeCss(css)) out.push(escape(css))
      else removed.push({ what: 'loading in <style>', line: parser.line })
      style = undefined
    }
    out.push(`</${tag.local}>`)
  })
  const onText = (found: string) => {
    if (failure || isRemoved() || open.length === 0) return
    if (style) style.push(found)
    else out.push(escape(found))
  }
  parser.on('text', onText)
  parser.on('cdata', onText)
  try {
    parser.write(text.replace(/^\ufeff/, '')).close()
  } catch (error) {
    const reason = error instanceof Error ? error.message : String(error)
    failure ??= { line: parser.line, problem: SVG_PROBLEMS['svg-xml-invalid'](reason) }
  }
  if (failure) return { ok: false, ...failure }
  if (!size) return { ok: false, line: null, problem: SVG_PROBLEMS['svg-root-missing']() }
  return { ok: true, svg: `${out.join('')}\n`, ...size, removed }
}

const escape = (text: string) => text.replace(/&/g, '&amp;').replace(/</g, '&lt;').replace(/>/g, '&gt;')
const quoted = (text: string) =>
  `"${escape(text)
    .replace(/"/g, '&quot;')
    .replace(/[\n\r\t]/g, ' ')}"`

/** Returns the attribute as written if it neither runs code nor points outside the image. */
function safeAttribute(element: string, name: string, uri: string, value: string): string | undefined {
  if (uri === XLINK || name === 'href')
    return name === 'href' &&
      (element === 'use' || /gradient|pattern|textPath|filter/i.test(element)) &&
      /^\s*#/.test(value)
      ? `href=${quoted(value.trim())}`
      : undefined
  if (name === 'space' && uri !== '') return undefined
  if (uri !== '' || /^on/i.test(name) || !/^[A-Za-z][\w-]*$/.test(name)) return undefined
  return isSafeCss(value) ? `${name}=${quoted(value)}` : undefined
}

/** Allows `url(…)` only for parts of the image. Escapes could hide one, so they are not allowed. */
const isSafeCss = (text: string) =>
  !/@import|expression\s*\(|javascript:|\\|-moz-binding|image-set|src\s*\(/i.test(text) &&
  [...text.matchAll(/url\s*\(\s*(["']?)\s*([^)"']*)/gi)].every((found) => (found[2] ?? '').startsWith('#'))

/** CSS pixels per unit of length (CSS Values 3 §6.2: an inch is 96 px). */
const PIXELS: Readonly<Record<string, number>> = {
  '': 1,
  px: 1,
  pt: 96 / 72,
  pc: 16,
  in: 96,
  cm: 96 / 2.54,
  mm: 96 / 25.4,
}

function sizeOf({ attributes }: SaxesTagNS): { width: number; height: number } | undefined {
  const length = (name: string) => {
    const found = /^\s*(\d+(?:\.\d+)?(?:e[+-]?\d+)?)\s*(px|pt|pc|in|cm|mm|)\s*$/i.exec(
      attributes[name]?.value ?? '',
    )
    return found ? Number(found[1]) * (PIXELS[(found[2] ?? '').toLowerCase()] ?? 1) : undefined
  }
  const box = (attributes['viewBox']?.value ?? '')
    .trim()
    .split(/[\s,]+/)
    .map(Number)
  const [, , boxWidth, boxHeight] = box.length === 4 && box.every(Number.isFinite) ? box : []
  const width = length('width')
  const height = length('height')
  const ratio = boxWidth && boxHeight ? boxHeight / boxWidth : undefined
  const pair =
    width !== undefined && height !== undefined
      ? [width, height]
      : width !== undefined && ratio !== undefined
        ? [width, width * ratio]
        : height !== undefined && ratio !== undefined
          ? [height / ratio, height]
          : [boxWidth, boxHeight]
  const [w, h] = pair
  if (w === undefined || h === undefined || !(w > 0) || !(h > 0)) return undefined
  return { width: Math.max(1, Math.round(w)), height: Math.max(1, Math.round(h)) }
}
