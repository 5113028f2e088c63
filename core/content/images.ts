/**
 * Images in several sizes and formats: which there are, at which addresses, and the HTML that offers them. A browser takes
 * the smallest that fills the place of the image (HTML, “Images” §4.8.4).
 */
import { escapeHtml } from './html/safe-html.ts'

/** An image of the blog, with its size in pixels. */
export interface BlogImage {
  name: string
  width: number
  height: number
  /** What it shows, for readers who do not see it. */
  text?: string | null
}

/** A format that images are made in. */
export type SizeFormat = 'avif' | 'webp'

/** Widths that images are made in, in pixels: steps of about 1.4, so that at most twice the needed pixels are sent. */
const WIDTHS = [320, 480, 640, 960, 1280, 1920, 2560]
const WIDEST = Math.max(...WIDTHS)

/**
 * The formats that images are made in, by the ending of their names. WebP may be animated, which AVIF would lose. SVG fits
 * every size, and GIF is left as it is.
 */
const FORMATS: Readonly<Record<string, readonly SizeFormat[]>> = {
  jpg: ['avif', 'webp'],
  png: ['avif', 'webp'],
  webp: ['webp'],
}

const formatsOf = (name: string): readonly SizeFormat[] => FORMATS[/\.([a-z]+)$/.exec(name)?.[1] ?? ''] ?? []

/** Returns the widths that an image is made in, in pixels: those below its own, and its own unless that is too wide. */
export const widthsOf = ({ width }: { width: number }): number[] => {
  const smaller = WIDTHS.filter((one) => one < width)
  return width <= WIDEST ? [...smaller, width] : smaller
}

/** A size of an image. */
export interface ImageSize {
  /** In pixels. The height follows. */
  width: number
  format: SizeFormat
}

/** Parses a size in an address, e.g. `640.webp`; undefined if the image is not made in that size. */
export function sizeNamed(image: BlogImage, text: string): ImageSize | undefined {
  const [, width = '', format = ''] = /^([1-9]\d{0,4})\.(avif|webp)$/.exec(text) ?? []
  const size = { width: Number(width), format: format as SizeFormat }
  return formatsOf(image.name).includes(size.format) && widthsOf(image).includes(size.width)
    ? size
    : undefined
}

export const imageAddress = (name: string): string => `/media/${encodeURIComponent(name)}`

/** How an image is shown. */
export interface Shown {
  /** The width of its place, as the attribute `sizes` has it. */
  sizes: string
  /** `eager` for an image that is visible at once; others are loaded when they come near. */
  loading: 'lazy' | 'eager'
  class?: string
}

/** Returns the `source` elements for an image, from the smallest format to the largest; none for formats that are not made. */
export function sourcesOf(image: BlogImage, sizes: string): string {
  const address = imageAddress(image.name)
  return formatsOf(image.name)
    .map((format) => {
      const set = widthsOf(image).map((width) => `${address}/${width}.${format} ${width}w`)
      return `<source type="image/${format}" srcset="${set.join(', ')}" sizes="${escapeHtml(sizes)}">`
    })
    .join('')
}

/** Before the image is laid out, browsers that know `auto` wait for its place; others take what follows. */
export const lazySizes = (sizes: string): string => `auto, ${sizes}`

/** Returns the HTML of an image in all its sizes. */
export function pictureElement(image: BlogImage, { sizes, loading, class: name }: Shown): string {
  const attributes = [
    ...(name === undefined ? [] : [`class="${escapeHtml(name)}"`]),
    `src="${imageAddress(image.name)}"`,
    `width="${image.width}"`,
    `height="${image.height}"`,
    `alt="${escapeHtml(image.text ?? '')}"`,
    loading === 'lazy' ? 'loading="lazy"' : 'fetchpriority="high"',
    'decoding="async"',
  ]
  const element = `<img ${attributes.join(' ')}>`
  const sources = sourcesOf(image, loading === 'lazy' ? lazySizes(sizes) : sizes)
  return sources === '' ? element : `<picture>${sources}${element}</picture>`
}
