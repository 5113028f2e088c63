/** Answers requests for images. Those of unknown images get undefined. */
import { LRUCache } from 'lru-cache'
import { imageAddress, sizeNamed, type ImageSize } from '../../../core/content/images.ts'
import type { DatabasePort, LogPort } from '../../publish/ports.ts'
import { ImageEntity } from '../../store/entities/content.ts'
import { sendFile } from '../http/send-file.ts'
import type { SentRequest } from '../http/send.ts'
import type { ImagesPort } from '../ports.ts'
import { EncoderBusy, NotEncoded } from './encode.ts'
import type { ImageFile } from './image-cache.ts'
import { madeSize } from './made-sizes.ts'

type Ports = DatabasePort & ImagesPort & LogPort

/** Sizes that could not be made, which are not tried again for each reader. */
const failed = new LRUCache<string, true>({ max: 1_000 })

const headersOf = (type: string) => ({
  'content-type': type,
  // A replaced image is visible after a minute at the latest (RFC 5861).
  'cache-control': 'public, max-age=60, stale-while-revalidate=3600',
  'x-content-type-options': 'nosniff',
  // An SVG image that is opened on its own is a document, which must not run or load anything.
  'content-security-policy': "default-src 'none'; style-src 'unsafe-inline'; sandbox",
})

const original = ({ database, images }: Ports, name: string): Promise<ImageFile | undefined> =>
  images.get(name, async () => {
    const found =
      /^[\w.-]{1,120}$/.test(name) && (await database.getRepository(ImageEntity).findOneBy({ name }))
    if (!found) return undefined
    const { type, sha256, width, height, bytes } = found
    return { type, sha256, width, height, bytes: Buffer.from(bytes) }
  })

/** Answers with an image as it was added. */
export async function serveImage(
  blog: Ports,
  name: string,
  sent: SentRequest,
): Promise<Response | undefined> {
  const image = await original(blog, name)
  return (
    image &&
    (await sendFile(
      { bytes: image.bytes, etag: `"${image.sha256.slice(0, 20)}"`, headers: headersOf(image.type) },
      sent,
    ))
  )
}

/**
 * Answers with an image in a size that pages offer.
 * @param text the size as addresses have it, e.g. `640.webp`
 */
export async function serveImageSize(
  blog: Ports,
  name: string,
  text: string,
  sent: SentRequest,
): Promise<Response | undefined> {
  const image = await original(blog, name)
  const size = image && sizeNamed({ name, width: image.width, height: image.height }, text)
  if (!size) return undefined
  const headers = headersOf(`image/${size.format}`)
  const etag = `"${image.sha256.slice(0, 20)}-${text}"`
  // The headers are known without making it, except for its length (RFC 9110 §9.3.2).
  if (sent.method === 'HEAD') return new Response(null, { headers: { ...headers, etag } })
  const file = await inSize(blog, { name, image, text, size })
  return file
    ? await sendFile({ bytes: file.bytes, etag, headers }, sent)
    : new Response(null, {
        status: 307,
        headers: { location: imageAddress(name), 'cache-control': 'no-store' },
      })
}

/** Returns an image in a size; undefined if it cannot be made, or not now. */
async function inSize(
  { database, images, log }: Ports,
  { name, image, text, size }: { name: string; image: ImageFile; text: string; size: ImageSize },
): Promise<ImageFile | undefined> {
  const key = `${image.sha256} ${text}`
  if (failed.has(key)) return undefined
  try {
    return await images.get(`${name}/${text}`, async () => {
      const bytes = await madeSize(database, image, size)
      return { ...image, type: `image/${size.format}`, bytes }
    })
  } catch (error) {
    if (error instanceof EncoderBusy) return undefined
    if (!(error instanceof NotEncoded)) throw error
    failed.set(key, true)
    log.error({ image: name, size: text, error: error.message }, 'cannot make a size of an image')
    return undefined
  }
}
