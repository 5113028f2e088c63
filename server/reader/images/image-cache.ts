/** Images as they are served, by name, or by name and size. They are dropped whenever an image changes. */
import { LRUCache } from 'lru-cache'

export interface ImageFile {
  type: string
  bytes: Buffer<ArrayBuffer>
  /** Of the image as it was added. */
  sha256: string
  /** In pixels, of the image as it was added. */
  width: number
  height: number
}

export class ImageCache {
  readonly #images: LRUCache<string, ImageFile>
  #generation = 0

  /** @param maximum size of all images in bytes */
  constructor(maximum: number) {
    this.#images = new LRUCache({
      maxSize: maximum,
      sizeCalculation: (image) => image.bytes.byteLength + 200,
    })
  }

  /**
   * Returns an image from memory, or loads it. An image that changes while it is loaded is not kept.
   * @param key the name, or the name with a size
   */
  async get(key: string, load: () => Promise<ImageFile | undefined>): Promise<ImageFile | undefined> {
    const known = this.#images.get(key)
    if (known) return known
    const generation = this.#generation
    const loaded = await load()
    if (loaded && generation === this.#generation) this.#images.set(key, loaded)
    return loaded
  }

  clear(): void {
    this.#generation++
    this.#images.clear()
  }
}
