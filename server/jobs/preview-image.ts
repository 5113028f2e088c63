/** Draws preview images in a thread. The latest are remembered. */
import { LRUCache } from 'lru-cache'
import type { PreviewText } from '../../core/syndication/preview-image.ts'
import { Thread } from './thread.ts'

/** A PNG file. */
export type PreviewAnswer = Uint8Array<ArrayBuffer>

/** How long drawing may take, in milliseconds. The first time, fonts are read. */
const LONGEST = 10_000
/** Memory of the thread, in megabytes. */
const MEMORY = 256
/** Images that are remembered, in bytes. */
const MOST_REMEMBERED = 16 * 1024 * 1024

const thread = new Thread<PreviewText, PreviewAnswer>('preview-image-thread', MEMORY)
const remembered = new LRUCache<string, PreviewAnswer>({
  maxSize: MOST_REMEMBERED,
  sizeCalculation: (bytes) => bytes.byteLength + 500,
})
const drawing = new Map<string, Promise<PreviewAnswer>>()

/**
 * Returns a preview image as a PNG file.
 * @throws ThreadStopped if it takes too long
 */
export async function previewImage(text: PreviewText): Promise<PreviewAnswer> {
  const key = JSON.stringify(text)
  const known = remembered.get(key)
  if (known) return known
  let asked = drawing.get(key)
  if (!asked) {
    asked = thread.ask(text, { longest: LONGEST }).finally(() => drawing.delete(key))
    drawing.set(key, asked)
  }
  const made = await asked
  remembered.set(key, made)
  return made
}
