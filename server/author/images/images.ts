/** Reads an image file: its type by content, its size, whether all of it is there; drawings are made safe. */
import { createHash } from 'node:crypto'
import exifReader from 'exif-reader'
import sharp, { type Metadata } from 'sharp'
import { cleanSvg } from '../../../core/content/html/svg.ts'
import type { Problem } from '../../../core/shapes/problem.ts'
import { slugOf } from '../../../core/slugs/slug.ts'
import type { ImageEntity } from '../../store/entities/content.ts'

/** Largest file, in bytes. */
export const IMAGE_LIMIT = 10 * 1024 * 1024
/** Longest side, in pixels; and most pixels in all, for one that is decoded costs four bytes each. */
const SIDE_LIMIT = 12_000
const PIXEL_LIMIT = 50_000_000
const NAME_LIMIT = 80

/** Types that every browser shows: format as the decoder names it → media type, ending. */
const FORMATS: Readonly<Record<string, { type: string; ending: string; says: string }>> = {
  png: { type: 'image/png', ending: 'png', says: 'PNG' },
  jpeg: { type: 'image/jpeg', ending: 'jpg', says: 'JPEG' },
  webp: { type: 'image/webp', ending: 'webp', says: 'WebP' },
  gif: { type: 'image/gif', ending: 'gif', says: 'GIF' },
}
const SVG = { type: 'image/svg+xml', ending: 'svg', says: 'SVG' }
const ALLOWED = 'PNG, JPEG, WebP, GIF and SVG are'

/** What a file had and the image has not. */
export interface RemovedPart {
  what: string
  /** In a drawing, where it stood. */
  line: number | null
}

export type ImageResult =
  | { ok: true; image: Omit<ImageEntity, 'id' | 'addedAt'>; removed: RemovedPart[] }
  | { ok: false; problem: Problem }

/** @param file its name, of which the image's name is made: `Wheel pen.JPEG` → `wheel-pen.jpg` */
export async function readImage(file: string, bytes: Buffer): Promise<ImageResult> {
  const refuse = (message: string, more: Partial<Problem> = {}): ImageResult => ({
    ok: false,
    problem: { file, message, ...more },
  })
  if (bytes.byteLength === 0) return refuse('the file is empty')
  if (bytes.byteLength > IMAGE_LIMIT)
    return refuse(`the file is larger than ${IMAGE_LIMIT / 1024 / 1024} MB`, {
      hint: 'a picture for a page needs a few hundred kB; save it smaller',
    })
  const name = (ending: string) =>
    `${slugOf(file.replace(/^.*[\\/]/, '').replace(/\.[^.]*$/, ''), NAME_LIMIT) || 'image'}.${ending}`
  const made = (
    ending: string,
    type: string,
    size: { width: number; height: number },
    of: Buffer,
  ): ImageResult => ({
    ok: true,
    image: {
      name: name(ending),
      type,
      ...size,
      bytes: of,
      sha256: createHash('sha256').update(of).digest('hex'),
    },
    removed: [],
  })
  if (looksLikeXml(bytes)) {
    const drawing = cleanSvg(bytes.toString('utf8'))
    if (!drawing.ok) return refuse(drawing.message, drawing.line === null ? {} : { line: drawing.line })
    const wrong = tooLarge(drawing)
    if (wrong !== undefined) return refuse(wrong)
    const { svg, width, height, removed } = drawing
    const result = made(SVG.ending, SVG.type, { width, height }, Buffer.from(svg))
    return result.ok ? { ...result, removed } : result
  }
  try {
    const metadata = await sharp(bytes, { limitInputPixels: false }).metadata()
    const format = FORMATS[metadata.format]
    if (!format)
      return refuse(`this is a picture of the type ${metadata.format.toUpperCase()}`, {
        hint: `${ALLOWED} taken; save it as one of these`,
      })
    // As it is shown: a photograph may say that it lies on its side.
    const size = metadata.autoOrient
    const wrong = tooLarge(size)
    if (wrong !== undefined) return refuse(wrong)
    // The header may promise what the file does not hold: only decoding all of it tells.
    await sharp(bytes, { limitInputPixels: PIXEL_LIMIT, failOn: 'error' }).stats()
    const shown = { width: size.width, height: size.height }
    if (!saysPlace(metadata)) return made(format.ending, format.type, shown, bytes)
    const result = made(format.ending, format.type, shown, await withoutFacts(bytes))
    return result.ok ? { ...result, removed: [{ what: PLACE, line: null }] } : result
  } catch (error) {
    const said = error instanceof Error ? error.message : String(error)
    return /unsupported image format/i.test(said)
      ? refuse('this is no picture', { hint: `${ALLOWED} taken, by what is in the file, whatever its name` })
      : refuse('the picture is damaged: it cannot be read to its end', { hint: 'save or download it again' })
  }
}

const PLACE = 'the place where it was taken, and all else the camera noted'

/** True where readers could learn from the file where a photograph was taken: often, where somebody lives. */
function saysPlace({ exif, xmp }: Metadata): boolean {
  if (xmp?.includes('exif:GPS') === true) return true
  if (!exif) return false
  try {
    // EXIF 2.3, 4.6.6: the version alone says nothing.
    return Object.keys(exifReader(exif).GPSInfo ?? {}).some((one) => one !== 'GPSVersionID')
  } catch {
    // Notes that cannot be read may say anything.
    return true
  }
}

/** The picture as it is shown, its colours as they were, without what the camera noted. */
const withoutFacts = async (bytes: Buffer): Promise<Buffer> =>
  await sharp(bytes, { limitInputPixels: PIXEL_LIMIT, animated: true })
    .autoOrient()
    .keepIccProfile()
    .jpeg({ quality: 92, chromaSubsampling: '4:4:4', force: false })
    .webp({ quality: 92, force: false })
    .toBuffer()

/** An SVG is text whose first sign is “<”. */
const looksLikeXml = (bytes: Buffer) => /^\ufeff?\s*</.test(bytes.subarray(0, 200).toString('utf8'))

function tooLarge({ width, height }: { width: number; height: number }): string | undefined {
  if (Math.max(width, height) > SIDE_LIMIT)
    return `the picture is ${grouped(width)} × ${grouped(height)} pixels; a side may have ${grouped(SIDE_LIMIT)}`
  return width * height > PIXEL_LIMIT
    ? `the picture has ${grouped(Math.round((width * height) / 1e6))} million pixels; ${PIXEL_LIMIT / 1e6} million are taken`
    : undefined
}

const grouped = (number: number) => number.toLocaleString('en-GB')
