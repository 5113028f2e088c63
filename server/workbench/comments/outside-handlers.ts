/** Handlers of the outside comment service. */
import type { commentOperations } from '../../../contract/comments.ts'
import { success } from '../../../core/shapes/outcome.ts'
import {
  addOutside,
  countOutside,
  listOutside,
  sendComments,
  serviceOf,
} from '../../author/comments/outside-service.ts'
import { write } from '../../author/writing.ts'
import type { Blog } from '../../reader/blog.ts'
import { serviceOrigin } from '../../reader/comments/form.ts'
import { CommentEntity } from '../../store/entities/content.ts'
import type { HandlersOf } from '../http/handlers-of.ts'

/** Keys of outside comment services. */
export interface ServiceKeys {
  /** The key for the built-in test service. */
  test: string | null
  /** The key for any other service. */
  other: string | null
}

type Operations = Pick<
  typeof commentOperations,
  'GET /api/comments/outside' | 'POST /api/comments/outside/send' | 'POST /api/comments/outside/fetch'
>

export const outsideHandlers = (blog: Blog, keys: ServiceKeys): HandlersOf<Operations> => {
  const service = () =>
    serviceOf(blog, blog.site.definition.comments.outside?.service === 'test' ? keys.test : keys.other)
  return {
    'GET /api/comments/outside': async () => {
      const here = await blog.database.getRepository(CommentEntity).count()
      const origin = serviceOrigin(blog, blog.site.definition.comments) ?? null
      const found = service()
      const counted = found.ok ? await countOutside(found.value) : found
      return success({
        service: origin,
        test: blog.commentService,
        here,
        there: counted.ok ? counted.value : null,
        problem: origin === null || counted.ok ? null : (counted.problems[0]?.message ?? null),
      })
    },
    'POST /api/comments/outside/send': async () => {
      const found = service()
      return found.ok ? await sendComments(blog, found.value) : found
    },
    'POST /api/comments/outside/fetch': async () => {
      const found = service()
      if (!found.ok) return found
      const listed = await listOutside(found.value)
      if (!listed.ok) return listed
      const written = await write(blog, (writing) =>
        addOutside(writing, blog, { service: found.value, comments: listed.value }),
      )
      return written.ok ? success({ ...written.value, step: written.step, purged: written.purged }) : written
    },
  }
}
