/** The use cases of moderation: each is one transaction, which can be undone as a step, except for erasing. */
import { cleanLine, cleanText } from '../../../core/comments/text.ts'
import type { CommentState } from '../../../core/shapes/content-kinds.ts'
import { conflict, refused, success, unknown, type Outcome } from '../../../core/shapes/outcome.ts'
import type { CursorKeyPort, StorePort } from '../../publish/ports.ts'
import { avatarOf } from '../../reader/comments/visitor.ts'
import {
  chainOf,
  eraseComments,
  forgetWriter,
  marksOfWriter,
  purgeDeletedComments,
} from '../../store/content/moderation.ts'
import { forgetSubscribers } from '../../store/content/mail.ts'
import { CommentEntity } from '../../store/entities/content.ts'
import { COMMENT_PROBLEMS, ROW_PROBLEMS } from '../problems.ts'
import type { Writing } from '../writing.ts'

export interface CommentRef {
  id: number
  /** The version that the moderator has read. */
  version: number
}

const FILE = 'comments'

const commentUnknown = (id: number) =>
  unknown({ file: FILE, ...ROW_PROBLEMS['row-unknown']('comment', String(id)) })
const commentConflict = ({ version, text }: CommentEntity) =>
  conflict({ file: FILE, ...ROW_PROBLEMS['version-conflict']('this comment') }, { version, text })

/** Sets the state of comments. Readers see a reply only while all comments above it are shown. */
export async function setState(
  { manager }: Writing,
  refs: readonly CommentRef[],
  state: CommentState,
): Promise<Outcome<{ changed: number }>> {
  const found = await lock(
    manager,
    refs.map((one) => one.id),
  )
  for (const { id, version } of refs) {
    const row = found.get(id)
    if (!row) return commentUnknown(id)
    if (row.version !== version) return commentConflict(row)
  }
  const ids = [...found.values()].flatMap((one) => (one.state === state ? [] : [one.id]))
  if (ids.length > 0)
    await manager
      .createQueryBuilder()
      .update(CommentEntity)
      .set({ state, version: () => 'version + 1' })
      .whereInIds(ids)
      .execute()
  return success({ changed: ids.length })
}

/** Locks comments in the order of their ids, so that two moderators do not wait for each other. */
async function lock(
  manager: Writing['manager'],
  ids: readonly number[],
): Promise<Map<number, CommentEntity>> {
  const rows = await manager
    .getRepository(CommentEntity)
    .createQueryBuilder('comment')
    .whereInIds([...ids])
    .orderBy('comment.id')
    .setLock('pessimistic_write')
    .getMany()
  return new Map(rows.map((one) => [one.id, one]))
}

/** Replies in the name of the post's author. A comment that is not shown yet is shown with the reply. */
export async function replyAsAuthor(
  { manager, definition, now }: Writing,
  key: CursorKeyPort,
  comment: number,
  typed: string,
): Promise<Outcome<{ id: number }>> {
  const text = cleanText(typed)
  if (text === '') return refused({ file: FILE, path: '/text', ...COMMENT_PROBLEMS['comment-text-empty']() })
  const above = await manager.findOne(CommentEntity, {
    where: { id: comment },
    relations: { post: { author: true } },
  })
  if (!above) return commentUnknown(comment)
  const name = above.post.author?.name ?? definition.settings.title
  const chain = await chainOf(manager, comment)
  const hidden = [...(await lock(manager, chain)).values()].filter((one) => one.state !== 'shown')
  const shown = hidden.map((one) => one.id)
  if (shown.length > 0)
    await manager
      .createQueryBuilder()
      .update(CommentEntity)
      .set({ state: 'shown', version: () => 'version + 1' })
      .whereInIds(shown)
      .execute()
  const row = await manager.save(CommentEntity, {
    postId: above.postId,
    parentId: parentWithin(above, definition.comments.depth),
    name,
    text,
    state: 'shown',
    byAuthor: true,
    avatar: avatarOf(key, { name, email: '' }),
    createdAt: now,
  })
  return success({ id: row.id })
}

/** Replies to a comment on the last level join that level. */
const parentWithin = ({ id, depth, parentId }: CommentEntity, deepest: number): number | null =>
  depth < Math.max(1, deepest) ? id : parentId

/** For how many days a deleted comment can be restored. */
const KEPT_DAYS = 30

/** Deletes for good what was deleted longer ago. */
export const forgetDeleted = ({ store }: StorePort): Promise<unknown> =>
  store.write(async ({ manager }) => success(await purgeDeletedComments(manager, KEPT_DAYS)))

/** Changes the name and the text. What it was is kept with the comment. */
export async function editComment(
  { manager }: Writing,
  { id, version }: CommentRef,
  typed: { name: string; text: string },
): Promise<Outcome<{ version: number }>> {
  const name = cleanLine(typed.name)
  const text = cleanText(typed.text)
  const problems = [
    ...(name === '' ? [{ file: FILE, path: '/name', ...ROW_PROBLEMS['name-empty']() }] : []),
    ...(text === '' ? [{ file: FILE, path: '/text', ...COMMENT_PROBLEMS['comment-text-empty']() }] : []),
  ]
  if (problems.length > 0) return refused(...problems)
  const row = (await lock(manager, [id])).get(id)
  if (!row) return commentUnknown(id)
  if (row.version !== version) return commentConflict(row)
  if (row.name === name && row.text === text) return success({ version })
  await manager
    .createQueryBuilder()
    .update(CommentEntity)
    .set({ name, text, version: version + 1 })
    .where({ id })
    .execute()
  return success({ version: version + 1 })
}

/** Erases everything that a writer has written, and what is stored of them. It cannot be undone. */
export async function eraseWriter(
  { manager, definition }: Writing,
  comment: number,
): Promise<Outcome<{ deleted: number; emptied: number }>> {
  const marks = await marksOfWriter(manager, comment)
  if (marks.ids.length === 0) return commentUnknown(comment)
  const erased = await eraseComments(manager, marks.ids, definition.say('comment-erased'))
  await forgetWriter(manager, marks)
  await forgetSubscribers(manager, marks)
  return success(erased)
}
