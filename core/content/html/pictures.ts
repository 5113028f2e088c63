/** Offers the images of a text in all their sizes. */
import { Parser } from 'htmlparser2'
import { lazySizes, sourcesOf } from '../images.ts'
import type { ImageSizes } from './allow-list.ts'

/** The width of an image in a text where the browser does not know `auto`: a column of text, or the screen. */
const IN_TEXT = '(min-width: 48rem) 44rem, 100vw'

/**
 * Puts each image of the blog into a `picture` with its other sizes and formats. Nothing else of the HTML changes.
 * @param html that was sanitized
 */
export function withPictures(html: string, sizeOf: ImageSizes): string {
  if (!html.includes('<img')) return html
  const added: { at: number; text: string }[] = []
  const parser = new Parser({
    onopentag(name, { src = '', loading }) {
      const [, image] = name === 'img' ? (/^\/media\/([\w.-]+)$/.exec(src) ?? []) : []
      const size = image === undefined ? undefined : sizeOf(src)
      if (image === undefined || !size) return
      const sources = sourcesOf({ name: image, ...size }, loading === 'lazy' ? lazySizes(IN_TEXT) : IN_TEXT)
      if (sources === '') return
      added.push({ at: parser.startIndex, text: `<picture>${sources}` })
      added.push({ at: parser.endIndex + 1, text: '</picture>' })
    },
  })
  parser.end(html)
  let [result, from] = ['', 0]
  for (const { at, text } of added) {
    result += html.slice(from, at) + text
    from = at
  }
  return result + html.slice(from)
}
