/** Encodes an image in another size and format. libvips does it on threads of its own, so readers do not wait. */
import pLimit from 'p-limit'
import sharp from 'sharp'
import type { ImageSize } from '../../../core/content/images.ts'

/** The maximum number of pixels, all frames together: decoding takes four bytes per pixel. */
const PIXEL_LIMIT = 50_000_000
/** How long encoding may take, in seconds. */
const LONGEST = 20
/** How many images may wait. Each waits with its file in memory. */
const MOST_WAITING = 20

/** One at a time: an image takes a processor for up to a few seconds. */
const turns = pLimit(1)

/** Thrown when too many images wait. */
export class EncoderBusy extends Error {}

/** Thrown for an image that cannot be made in a size. The reason is in its message. */
export class NotEncoded extends Error {}

/** Quality and effort: AVIF at a higher effort takes several times as long for a few percent. */
const AVIF = { quality: 55, effort: 2 }
const WEBP = { quality: 80, effort: 4 }

/** Returns true for a PNG with several frames, of which only the first would be read (PNG, third edition, §11.3.6). */
const isAnimatedPng = (bytes: Buffer): boolean => {
  const animation = bytes.indexOf('acTL')
  return bytes.indexOf('\x89PNG', 0, 'latin1') === 0 && animation > 0 && animation < bytes.indexOf('IDAT')
}

/**
 * Returns the image in a size.
 * @throws NotEncoded if it cannot be made, EncoderBusy if too many images wait
 */
export async function encodeSize(
  original: Buffer,
  { width, format }: ImageSize,
): Promise<Buffer<ArrayBuffer>> {
  if (turns.pendingCount >= MOST_WAITING) throw new EncoderBusy()
  return await turns(async () => {
    if (isAnimatedPng(original)) throw new NotEncoded('An animated PNG would lose its animation.')
    try {
      const resized = sharp(original, { limitInputPixels: PIXEL_LIMIT, animated: format === 'webp' })
        .autoOrient()
        .resize({ width, withoutEnlargement: true })
        .timeout({ seconds: LONGEST })
      const made = await (format === 'avif' ? resized.avif(AVIF) : resized.webp(WEBP)).toBuffer()
      return Buffer.from(made)
    } catch (error) {
      throw new NotEncoded(error instanceof Error ? error.message : String(error))
    }
  })
}
