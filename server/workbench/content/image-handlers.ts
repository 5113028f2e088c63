/** Handlers of the operations on images. */
import type { imageOperations } from '../../../contract/images.ts'
import { success } from '../../../core/shapes/outcome.ts'
import { addImage, deleteImage } from '../../author/images/image-actions.ts'
import { readImage } from '../../author/images/images.ts'
import { showImageAgain } from '../../author/images/show-image.ts'
import { write } from '../../author/writing.ts'
import type { WritingPorts } from '../../author/writing.ts'
import type { DatabasePort } from '../../publish/ports.ts'
import type { ImagesPort } from '../../reader/ports.ts'
import { imagesWithUses } from '../../store/content/images.ts'
import { withPurged, type HandlersOf } from '../http/handlers-of.ts'

type Ports = WritingPorts & DatabasePort & ImagesPort

export const imageHandlers = (blog: Ports): HandlersOf<typeof imageOperations> => ({
  'GET /api/images': async () => {
    const images = await imagesWithUses(blog.database)
    return success(
      images.map((one) => ({
        ...one,
        addedAt: one.addedAt.toISOString(),
        address: `/media/${one.name}`,
      })),
    )
  },
  'PUT /api/image': async ({ query: { file, replaces }, body }) => {
    const read = await readImage(file, Buffer.from(body))
    if (!read.ok) return read
    const written = await write(blog, (writing) => addImage(writing, read.value, replaces))
    if (!written.ok) return written
    if (written.value.outcome !== 'same') await showImageAgain(blog, written.value.name)
    return withPurged(written)
  },
  'DELETE /api/image': async ({ query: { name } }) => {
    const written = await write(blog, (writing) => deleteImage(writing, name))
    if (!written.ok) return written
    await showImageAgain(blog, name)
    return withPurged(written)
  },
})
