/** Images as they are served, by name. They are dropped whenever an image changes. */
import { LRUCache } from 'lru-cache'

export interface ImageFile {
  type: string
  bytes: Buffer<ArrayBuffer>
  sha256: string
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

  /** Returns an image from memory, or loads it. An image that changes while it is loaded is not kept. */
  async get(name: string, load: () => Promise<ImageFile | undefined>): Promise<ImageFile | undefined> {
    const known = this.#images.get(name)
    if (known) return known
    const generation = this.#generation
    const loaded = await load()
    if (loaded && generation === this.#generation) this.#images.set(name, loaded)
    return loaded
  }

  clear(): void {
    this.#generation++
    this.#images.clear()
  }
}
