/** Handlers of the operations on content as a whole. */
import type { contentOperations } from '../../../contract/content.ts'
import { success } from '../../../core/shapes/outcome.ts'
import { listDeleted, restore } from '../../author/deleted/deleted.ts'
import { showImageAgain } from '../../author/images/show-image.ts'
import { write } from '../../author/writing.ts'
import type { WritingPorts } from '../../author/writing.ts'
import type { DatabasePort } from '../../publish/ports.ts'
import type { ImagesPort } from '../../reader/ports.ts'
import {
  AuthorEntity,
  CategoryEntity,
  ImageEntity,
  PageEntity,
  PostEntity,
  TagEntity,
} from '../../store/entities/content.ts'
import { withPurged, type HandlersOf } from '../http/handlers-of.ts'

type Ports = WritingPorts & DatabasePort & ImagesPort

export const contentHandlers = (blog: Ports): HandlersOf<typeof contentOperations> => ({
  'GET /api/content': async () => {
    const { manager } = blog.database
    const [posts, pages, categories, tags, authors, images] = await Promise.all([
      manager.count(PostEntity),
      manager.count(PageEntity),
      manager.count(CategoryEntity),
      manager.count(TagEntity),
      manager.count(AuthorEntity),
      manager.count(ImageEntity),
    ])
    return success({ posts, pages, categories, tags, authors, images })
  },
  'GET /api/deleted': async ({ query }) => {
    const rows = await listDeleted(blog.database, query.kind)
    return success(rows.map((one) => ({ ...one, deletedAt: one.deletedAt.toISOString() })))
  },
  'POST /api/deleted/restore': async ({ body }) => {
    const written = await write(blog, (writing) => restore(writing, body.deleted))
    if (!written.ok) return written
    const { kind, name } = written.value
    if (kind === 'image') await showImageAgain(blog, name)
    return withPurged(written)
  },
})
