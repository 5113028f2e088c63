/** Renders the texts that show an image again after it was added, replaced, deleted or restored. */
import { renderAgain, type RenderPorts } from '../texts/render-again.ts'

/** Holds images as they are served. */
export interface ImageCachePort {
  readonly images: { delete(name: string): boolean }
}

export async function showImageAgain(ports: RenderPorts & ImageCachePort, name: string): Promise<void> {
  ports.images.delete(name)
  await renderAgain(ports, { showing: name })
}
