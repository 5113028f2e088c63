/** The action of a comment form: validates the comment and stores it once. */
import type { Definition } from '../../core/blog/definition.ts'
import { commentLimits, readComment } from '../../core/comments/comment.ts'
import { success } from '../../core/shapes/outcome.ts'
import type { StorePort } from '../publish/ports.ts'
import { CommentEntity } from '../store/entities/content.ts'
import type { FormState } from './page-data.ts'

export type CommentResult =
  { outcome: 'added'; id: number } | { outcome: 'refused'; form: FormState } | { outcome: 'closed' }

/**
 * Adds a comment. Submitting the same form again returns the comment that it added before.
 * @param post a post that the sender may see
 * @param fields of the form: name, text, once
 * @param definition its limits, and the texts of its errors
 */
export async function addComment(
  { store }: StorePort,
  post: { id: number; commentsOpen: boolean },
  fields: Readonly<Record<string, string | undefined>>,
  { settings, say }: Pick<Definition, 'settings' | 'say'>,
): Promise<CommentResult> {
  if (!post.commentsOpen) return { outcome: 'closed' }
  const { draft, errors } = readComment(fields, commentLimits(settings), say)
  if (Object.keys(errors).length > 0)
    return { outcome: 'refused', form: { values: { name: draft.name, text: draft.text }, errors } }
  const written = await store.write(async (unit) => {
    const comments = unit.manager.getRepository(CommentEntity)
    const inserted = await comments
      .createQueryBuilder()
      .insert()
      .values({ postId: post.id, name: draft.name, text: draft.text, once: draft.once, state: 'shown' })
      .orIgnore()
      .returning('id')
      .execute()
    const [row] = inserted.raw as { id: number }[]
    if (!row) return success((await comments.findOneByOrFail({ once: draft.once ?? '' })).id)
    return success(row.id)
  })
  if (!written.ok) throw new Error(written.problems[0]?.message)
  return { outcome: 'added', id: written.value }
}
