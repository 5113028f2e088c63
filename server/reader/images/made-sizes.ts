/** Sizes of images, which are made when they are first requested and kept in the database by the content of the image. */
import type { DataSource } from 'typeorm'
import type { ImageSize } from '../../../core/content/images.ts'
import type { ImageFile } from './image-cache.ts'
import { encodeSize } from './encode.ts'

/** Sizes that are being made: readers who request one at the same time get the same. */
const making = new Map<string, Promise<Buffer<ArrayBuffer>>>()

/**
 * Returns an image in a size, from the database or made now.
 * @throws NotEncoded if it cannot be made, EncoderBusy if too many images wait
 */
export async function madeSize(
  database: DataSource,
  { sha256, bytes }: Pick<ImageFile, 'sha256' | 'bytes'>,
  size: ImageSize,
): Promise<Buffer<ArrayBuffer>> {
  const { width, format } = size
  const [kept] = await database.query<{ bytes: Buffer }[]>(
    'SELECT bytes FROM image_size WHERE sha256 = $1 AND width = $2 AND format = $3',
    [sha256, width, format],
  )
  if (kept) return Buffer.from(kept.bytes)
  const key = `${sha256} ${width} ${format}`
  let made = making.get(key)
  if (!made) {
    made = encodeSize(bytes, size).finally(() => making.delete(key))
    making.set(key, made)
    const encoded = await made
    // Not for an image that was deleted or replaced meanwhile: nothing would delete its sizes.
    await database.query(
      `INSERT INTO image_size (sha256, width, format, bytes)
         SELECT $1, $2, $3, $4 WHERE EXISTS (SELECT FROM image WHERE sha256 = $1)
         ON CONFLICT DO NOTHING`,
      [sha256, width, format, encoded],
    )
  }
  return await made
}
