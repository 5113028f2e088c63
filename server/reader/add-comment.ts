/** The action behind a comment form: checks, stores once, purges what shows comments. */
import { readComment, type CommentLimits } from '../../core/comments/comment.ts'
import { CommentEntity } from '../store/entities/content.ts'
import type { Blog } from './blog.ts'
import type { FormState } from './page-data.ts'

export type CommentResult =
  { outcome: 'added'; id: number } | { outcome: 'refused'; form: FormState } | { outcome: 'closed' }

/**
 * @param post one that the sender may see; the foreign key holds the comment to it
 * @param fields of the form: name, text, once
 */
export async function addComment(
  blog: Blog,
  post: { id: number; commentsOpen: boolean },
  fields: Readonly<Record<string, string | undefined>>,
  limits: CommentLimits,
): Promise<CommentResult> {
  if (!post.commentsOpen) return { outcome: 'closed' }
  const { draft, errors } = readComment(fields, limits)
  if (Object.keys(errors).length > 0) {
    return { outcome: 'refused', form: { values: { name: draft.name, text: draft.text }, errors } }
  }
  const repository = blog.database.getRepository(CommentEntity)
  const inserted = await repository
    .createQueryBuilder()
    .insert()
    .values({ postId: post.id, name: draft.name, text: draft.text, once: draft.once, state: 'shown' })
    .orIgnore()
    .returning('id')
    .execute()
  const [row] = inserted.raw as { id: number }[]
  if (row) {
    blog.changed({
      source: 'comments',
      id: row.id,
      before: null,
      after: { state: 'shown', postId: post.id },
      counted: [{ source: 'posts', id: post.id }],
    })
    return { outcome: 'added', id: row.id }
  }
  // The same form was sent before: lead to the comment it made then.
  const first = await repository.findOneByOrFail({ once: draft.once ?? '' })
  return { outcome: 'added', id: first.id }
}
