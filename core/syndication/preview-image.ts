/**
 * Draws the image that stands for a post where its address is shared: its title and the blog's, as an SVG of outlines, so
 * that it looks the same whatever fonts the server has.
 */
import type { PreviewColours } from '../shapes/schemas.ts'

/** Grows when the same text would be drawn differently. */
export const PREVIEW_VERSION = 1

/** In pixels: 1.91 to 1, which is shown without cutting (common practice). */
export const PREVIEW_SIZE = { width: 1200, height: 630 } as const

export interface PreviewText {
  title: string
  blog: string
  colours: PreviewColours
}

/** A text as outlines. */
export interface Outlined {
  /** In pixels. */
  width: number
  /** SVG elements, with the start of the baseline at 0, 0. */
  markup: string
}
export type Outline = (text: string, size: number) => Outlined

const DEFAULT: Required<PreviewColours> = { paper: '#fbf9f4', ink: '#24252d', accent: '#b3471d' }

const MARGIN = 80
const LINE = PREVIEW_SIZE.width - 2 * MARGIN
/** Sizes of the title that are tried, in pixels, each with the lines that have room. */
const SIZES: readonly (readonly [size: number, lines: number])[] = [
  [92, 3],
  [76, 4],
  [60, 5],
  [48, 6],
]
const LINE_HEIGHT = 1.16
const BLOG_SIZE = 34
/** Characters of a title that are drawn. More have no room at any size. */
const LONGEST = 400

/** Returns the image as SVG. */
export function drawPreview({ title, blog, colours }: PreviewText, outline: Outline): string {
  const { paper, ink, accent } = { ...DEFAULT, ...colours }
  const { size, lines } = fitted(title.slice(0, LONGEST), outline)
  // The first baseline, so that capitals begin at the same distance from the bar at each size.
  const top = 140 + size * 0.75
  const at = (x: number, y: number, fill: string, markup: string) =>
    `<g transform="translate(${x} ${y.toFixed(1)})" fill="${fill}">${markup}</g>`
  return [
    `<svg xmlns="http://www.w3.org/2000/svg" width="${PREVIEW_SIZE.width}" height="${PREVIEW_SIZE.height}">`,
    `<rect width="100%" height="100%" fill="${paper}"/>`,
    `<rect x="${MARGIN}" y="80" width="120" height="14" fill="${accent}"/>`,
    ...lines.map((line, index) =>
      at(MARGIN, top + index * size * LINE_HEIGHT, ink, outline(line, size).markup),
    ),
    at(
      MARGIN,
      PREVIEW_SIZE.height - 64,
      accent,
      outline(shortened(blog, BLOG_SIZE, outline), BLOG_SIZE).markup,
    ),
    '</svg>',
  ].join('')
}

/** Returns the largest size at which a title has room, and its lines. */
function fitted(title: string, outline: Outline): { size: number; lines: string[] } {
  for (const [size, most] of SIZES) {
    const lines = wrapped(title, size, outline)
    if (lines.length <= most) return { size, lines }
  }
  const [size, most] = SIZES[SIZES.length - 1] ?? [48, 6]
  const lines = wrapped(title, size, outline).slice(0, most)
  const last = lines.pop() ?? ''
  return { size, lines: [...lines, shortened(`${last}…`, size, outline)] }
}

/** Returns a text as it fits into a line. */
function shortened(text: string, size: number, outline: Outline): string {
  const characters = [...text.slice(0, LONGEST)]
  if (outline(characters.join(''), size).width <= LINE) return characters.join('')
  const start = (count: number) => `${characters.slice(0, count).join('')}…`
  return start(most(characters.length - 1, (count) => outline(start(count), size).width <= LINE))
}

/** Returns the largest number up to a limit, at least 1, for which something still fits, in few tries. */
function most(limit: number, fits: (count: number) => boolean): number {
  let [low, high] = [1, limit]
  while (low < high) {
    const middle = Math.ceil((low + high) / 2)
    if (fits(middle)) low = middle
    else high = middle - 1
  }
  return low
}

/** Where a line may break: behind spaces and hyphens, and around ideographs and kana (UAX 14, simplified). */
const PARTS =
  /[\p{Script=Han}\p{Script=Hiragana}\p{Script=Katakana}]|[^\s\p{Script=Han}\p{Script=Hiragana}\p{Script=Katakana}-]+-*|-+|\s+/gu

function wrapped(text: string, size: number, outline: Outline): string[] {
  const lines: string[] = []
  let line = ''
  const fits = (one: string) => outline(one.trimEnd(), size).width <= LINE
  for (const part of text.trim().match(PARTS) ?? []) {
    if (fits(line + part)) {
      line += part
      continue
    }
    if (line.trim() !== '') lines.push(line.trim())
    line = part.trimStart()
    // A word that is longer than a line is cut.
    while (!fits(line)) {
      const characters = [...line]
      const count = most(characters.length - 1, (one) => fits(characters.slice(0, one).join('')))
      lines.push(characters.slice(0, count).join(''))
      line = characters.slice(count).join('')
    }
  }
  if (line.trim() !== '') lines.push(line.trim())
  return lines
}
