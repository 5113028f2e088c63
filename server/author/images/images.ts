/** Reads an image file: detects its type from the content, checks that it is complete, and makes SVG images safe. */
import { createHash } from 'node:crypto'
import exifReader from 'exif-reader'
import sharp, { type Metadata } from 'sharp'
import type { Worded } from '../../../core/shapes/catalogue.ts'
import { refused, success, type Outcome } from '../../../core/shapes/outcome.ts'
import { slugOf } from '../../../core/slugs/slug.ts'
import { LONGEST_TEXT, readDrawing } from '../../jobs/texts.ts'
import { ThreadStopped } from '../../jobs/thread.ts'
import type { ImageEntity } from '../../store/entities/content.ts'
import { IMAGE_PROBLEMS } from '../problems.ts'

/** The maximum size of a file, in bytes. */
export const IMAGE_LIMIT = 10 * 1024 * 1024
/** The maximum length of a side, in pixels. */
const SIDE_LIMIT = 12_000
/** The maximum number of pixels: decoding takes four bytes per pixel. */
const PIXEL_LIMIT = 50_000_000
const NAME_LIMIT = 80

/** Types that every browser shows, by the decoder's name of the format. */
const FORMATS: Readonly<Record<string, { type: string; ending: string }>> = {
  png: { type: 'image/png', ending: 'png' },
  jpeg: { type: 'image/jpeg', ending: 'jpg' },
  webp: { type: 'image/webp', ending: 'webp' },
  gif: { type: 'image/gif', ending: 'gif' },
}
const SVG = { type: 'image/svg+xml', ending: 'svg' }
const SUPPORTED = 'PNG, JPEG, WebP, GIF, SVG'

/** What was removed from a file. */
export interface RemovedPart {
  what: string
  /** The line in an SVG file. */
  line: number | null
}

export interface ReadImage {
  image: Omit<ImageEntity, 'id' | 'addedAt'>
  removed: RemovedPart[]
}

/** What photographs contain that readers must not get. */
export const LOCATION = 'its location and the camera’s data'

/** @param file the file's name, from which the image's is derived: `Wheel pen.JPEG` becomes `wheel-pen.jpg` */
export async function readImage(file: string, bytes: Buffer): Promise<Outcome<ReadImage>> {
  const refuse = (problem: Worded, line: number | null = null) =>
    refused({ file, ...(line === null ? {} : { line }), ...problem })
  if (bytes.byteLength === 0) return refuse(IMAGE_PROBLEMS['image-empty']())
  if (bytes.byteLength > IMAGE_LIMIT)
    return refuse(IMAGE_PROBLEMS['image-too-large'](IMAGE_LIMIT / 1024 / 1024))
  const imageOf = (format: { type: string; ending: string }, size: Size, content: Buffer) => ({
    name: nameOf(file, format.ending),
    type: format.type,
    ...size,
    bytes: content,
    sha256: createHash('sha256').update(content).digest('hex'),
  })
  if (looksLikeXml(bytes)) {
    const drawing = await readDrawing(bytes.toString('utf8')).catch((error: unknown) => {
      if (!(error instanceof ThreadStopped)) throw error
      return {
        ok: false as const,
        line: null,
        problem: IMAGE_PROBLEMS['image-not-read'](LONGEST_TEXT / 1_000),
      }
    })
    if (!drawing.ok) return refuse(drawing.problem, drawing.line)
    const problem = sizeProblem(drawing)
    if (problem) return refuse(problem)
    const { svg, width, height, removed } = drawing
    return success({ image: imageOf(SVG, { width, height }, Buffer.from(svg)), removed })
  }
  try {
    const metadata = await sharp(bytes, { limitInputPixels: false }).metadata()
    const format = FORMATS[metadata.format]
    if (!format)
      return refuse(IMAGE_PROBLEMS['image-type-unsupported'](metadata.format.toUpperCase(), SUPPORTED))
    // The size as shown, after the rotation that a photograph may ask for.
    const { width, height } = metadata.autoOrient
    const problem = sizeProblem({ width, height })
    if (problem) return refuse(problem)
    // The header may promise more than the file contains, so all of it is decoded.
    await sharp(bytes, { limitInputPixels: PIXEL_LIMIT, failOn: 'error' }).stats()
    if (!hasLocation(metadata))
      return success({ image: imageOf(format, { width, height }, bytes), removed: [] })
    const content = await withoutMetadata(bytes)
    return success({
      image: imageOf(format, { width, height }, content),
      removed: [{ what: LOCATION, line: null }],
    })
  } catch (error) {
    const message = error instanceof Error ? error.message : String(error)
    return /unsupported image format/i.test(message)
      ? refuse(IMAGE_PROBLEMS['image-not-an-image'](SUPPORTED))
      : refuse(IMAGE_PROBLEMS['image-damaged']())
  }
}

interface Size {
  width: number
  height: number
}

function nameOf(file: string, ending: string): string {
  const base = file.replace(/^.*[\\/]/, '').replace(/\.[^.]*$/, '')
  return `${slugOf(base, NAME_LIMIT) || 'image'}.${ending}`
}

/** Returns true if the file may contain where a photograph was taken, which is often someone's home. */
function hasLocation({ exif, xmp }: Metadata): boolean {
  if (xmp?.includes('exif:GPS') === true) return true
  if (!exif) return false
  try {
    // EXIF 2.3, 4.6.6: the version alone is no location.
    return Object.keys(exifReader(exif).GPSInfo ?? {}).some((one) => one !== 'GPSVersionID')
  } catch {
    // Unreadable data may contain a location.
    return true
  }
}

/** Encodes the image as it is shown, with its colour profile and without other metadata. */
const withoutMetadata = async (bytes: Buffer): Promise<Buffer> =>
  await sharp(bytes, { limitInputPixels: PIXEL_LIMIT, animated: true })
    .autoOrient()
    .keepIccProfile()
    .jpeg({ quality: 92, chromaSubsampling: '4:4:4', force: false })
    .webp({ quality: 92, force: false })
    .toBuffer()

/** An SVG file is text that starts with “<”. */
const looksLikeXml = (bytes: Buffer) => /^\ufeff?\s*</.test(bytes.subarray(0, 200).toString('utf8'))

function sizeProblem({ width, height }: Size): Worded | undefined {
  if (Math.max(width, height) > SIDE_LIMIT)
    return IMAGE_PROBLEMS['image-side-too-long'](grouped(width), grouped(height), grouped(SIDE_LIMIT))
  return width * height > PIXEL_LIMIT
    ? IMAGE_PROBLEMS['image-too-many-pixels'](
        grouped(Math.round((width * height) / 1e6)),
        grouped(PIXEL_LIMIT / 1e6),
      )
    : undefined
}

const grouped = (number: number) => number.toLocaleString('en-GB')
