/** Renders the texts that show an image again after it was added, replaced, deleted or restored. */
import { renderAgain, type RenderPorts } from '../texts/render-again.ts'

export async function showImageAgain(ports: RenderPorts, name: string): Promise<void> {
  await renderAgain(ports, { showing: name })
}
