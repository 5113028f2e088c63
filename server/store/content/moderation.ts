/** Statements of moderation: the queue, what is known of a writer, and what is left of one who is erased. */
import type { EntityManager } from 'typeorm'
import type { CommentReason } from '../../../core/comments/judge.ts'
import type { CommentState } from '../../../core/shapes/content-kinds.ts'

export interface CommentFilter {
  state?: CommentState | undefined
  search?: string | undefined
  /** The hash of what is searched for, if it is a network address. */
  client?: string | null | undefined
  /** The slug of a post. */
  post?: string | undefined
  /** A comment of the writer. */
  writer?: number | undefined
}

export interface ListedComment {
  id: number
  version: number
  state: CommentState
  name: string
  text: string
  site: string
  at: Date
  slug: string
  title: string
  byAuthor: boolean
  depth: number
  isHidden: boolean
  reasons: CommentReason[]
  score: number | null
  shownBefore: number
}

export type CommentCounts = Record<CommentState, number>

/** Comments of the same writer: from the same browser, or with the same e-mail address. */
const SAME_WRITER =
  "(other.writer = one.writer OR (one.email <> '' AND lower(other.email) = lower(one.email)) OR (one.by_author AND other.by_author AND other.name = one.name))"

/** Returns the condition of a filter, apart from the state, and adds its values. */
function conditionOf({ search, client, post, writer }: CommentFilter, values: unknown[]): string {
  const at = (value: unknown) => `$${values.push(value)}`
  const conditions: string[] = []
  if (search !== undefined && search.trim() !== '') {
    const text = at(search.trim().toLowerCase())
    const parts = ['c.name', 'c.email', 'c.text', 'p.title'].map(
      (one) => `strpos(lower(${one}), ${text}) > 0`,
    )
    if (client) parts.push(`c.client = ${at(client)}`)
    conditions.push(`(${parts.join(' OR ')})`)
  }
  if (post !== undefined) conditions.push(`p.slug = ${at(post)}`)
  if (writer !== undefined)
    conditions.push(
      `EXISTS (SELECT FROM comment one, LATERAL (SELECT c.writer, c.email, c.by_author, c.name) other WHERE one.id = ${at(writer)} AND (c.id = one.id OR ${SAME_WRITER}))`,
    )
  return conditions.length === 0 ? 'true' : conditions.join(' AND ')
}

/** Lists comments, newest first. @param before the id of the last comment of the page before */
export async function listComments(
  manager: EntityManager,
  { state = 'waiting', ...filter }: CommentFilter,
  { before, limit }: { before: number | undefined; limit: number },
): Promise<ListedComment[]> {
  const values: unknown[] = [state, limit]
  const condition = conditionOf(filter, values)
  const after =
    before === undefined
      ? ''
      : `AND (c.created_at, c.id) < (SELECT last.created_at, last.id FROM comment last WHERE last.id = $${values.push(before)})`
  return await manager.query<ListedComment[]>(
    `SELECT one.id, one.version, one.state, one.name, one.text, one.site, one.created_at AS at, p.slug, p.title,
       one.by_author AS "byAuthor", one.depth, NOT one.parents_shown AS "isHidden", one.reasons, one.score,
       (SELECT count(*)::int FROM (SELECT FROM comment other WHERE other.id <> one.id AND other.state = 'shown' AND ${SAME_WRITER} LIMIT 99) before) AS "shownBefore"
     FROM (SELECT c.* FROM comment c JOIN post p ON p.id = c.post_id WHERE c.state = $1 AND ${condition} ${after}
       ORDER BY c.created_at DESC, c.id DESC LIMIT $2) one
     JOIN post p ON p.id = one.post_id ORDER BY one.created_at DESC, one.id DESC`,
    values,
  )
}

const NONE: CommentCounts = { waiting: 0, shown: 0, spam: 0, deleted: 0 }

/** Counts the comments of each state that a filter finds. */
export async function countComments(manager: EntityManager, filter: CommentFilter): Promise<CommentCounts> {
  const values: unknown[] = []
  const condition = conditionOf(filter, values)
  const rows = await manager.query<{ state: CommentState; count: number }[]>(
    `SELECT c.state, count(*)::int AS count FROM comment c JOIN post p ON p.id = c.post_id WHERE ${condition} GROUP BY c.state`,
    values,
  )
  return { ...NONE, ...Object.fromEntries(rows.map((one) => [one.state, one.count])) }
}

/** Counts the other comments of the writer of a comment, by state. */
export async function countOfWriter(manager: EntityManager, id: number): Promise<CommentCounts> {
  const rows = await manager.query<{ state: CommentState; count: number }[]>(
    `SELECT other.state, count(*)::int AS count FROM comment one JOIN comment other ON other.id <> one.id AND ${SAME_WRITER}
     WHERE one.id = $1 GROUP BY other.state`,
    [id],
  )
  return { ...NONE, ...Object.fromEntries(rows.map((one) => [one.state, one.count])) }
}

/** Returns the ids of a comment and of those above it. */
export async function chainOf(manager: EntityManager, id: number): Promise<number[]> {
  const rows = await manager.query<{ id: number }[]>(
    `WITH RECURSIVE above AS (SELECT id, parent_id FROM comment WHERE id = $1
       UNION ALL SELECT up.id, up.parent_id FROM comment up JOIN above ON up.id = above.parent_id)
     SELECT id FROM above`,
    [id],
  )
  return rows.map((one) => one.id)
}

/** What comments of one writer have in common, beside their ids. */
export interface WriterMarks {
  ids: number[]
  writer: string | null
  /** In lower case; empty for none. */
  email: string
}

/** Returns all comments of the writer of a comment; no ids if there is no such comment. */
export async function marksOfWriter(manager: EntityManager, id: number): Promise<WriterMarks> {
  const rows = await manager.query<{ id: number; writer: string | null; email: string }[]>(
    `SELECT other.id, one.writer, lower(one.email) AS email
     FROM comment one JOIN comment other ON other.id = one.id OR ${SAME_WRITER} WHERE one.id = $1`,
    [id],
  )
  const [first] = rows
  return {
    ids: rows.map((one) => one.id),
    writer: first?.writer ?? null,
    email: first?.email ?? '',
  }
}

/**
 * Deletes comments for good. Of one to which others have replied, the place remains, with nothing of its writer. The
 * change log forgets them, and so do deleted posts.
 */
export async function eraseComments(
  manager: EntityManager,
  ids: readonly number[],
  placeholder: string,
): Promise<{ deleted: number; emptied: number }> {
  const gone = new Set(ids)
  let deleted = 0
  // Comments to which only comments of the same writer reply go with these, from the last ones up.
  for (;;) {
    const [rows] = await manager.query<[{ id: number }[], number]>(
      'DELETE FROM comment c WHERE c.id = ANY ($1) AND NOT EXISTS (SELECT FROM comment reply WHERE reply.parent_id = c.id) RETURNING c.id',
      [[...gone]],
    )
    if (rows.length === 0) break
    deleted += rows.length
    for (const { id } of rows) gone.delete(id)
  }
  if (gone.size > 0)
    await manager.query(
      `UPDATE comment SET name = $2, text = $2, email = '', site = '', writer = NULL, client = NULL, avatar = NULL, once = NULL,
         reasons = '[]', score = NULL, edits = edits || '[]', version = version + 1 WHERE id = ANY ($1)`,
      [[...gone], placeholder],
    )
  // What triggers have noted of the change has the former text, too.
  if (gone.size > 0)
    await manager.query("UPDATE comment SET edits = '[]', edited_at = NULL WHERE id = ANY ($1)", [[...gone]])
  return { deleted, emptied: gone.size }
}

/** Decides whether a logged or kept row is one of the writer's: also of comments that do not exist any more. */
const ofWriter = (row: string) =>
  `((${row} ->> 'id')::int = ANY ($1) OR ${row} ->> 'writer' = $2 OR ($3 <> '' AND lower(${row} ->> 'email') = $3))`

/**
 * Removes what the change log and the bin have of a writer. Entries remain as if the table had been emptied: so copies are
 * dropped in all processes, and nothing can be restored.
 */
export async function forgetWriter(
  manager: EntityManager,
  { ids, writer, email }: WriterMarks,
): Promise<void> {
  const marks = [ids, writer, email]
  await manager.query(
    `UPDATE change_log SET before = NULL, after = NULL, fields = NULL
     WHERE source = 'comment' AND row_id IN (
       SELECT row_id FROM change_log WHERE source = 'comment' AND (row_id = ANY ($1) OR ${ofWriter('before')} OR ${ofWriter('after')}))`,
    marks,
  )
  await manager.query(
    `UPDATE deleted_row SET rows = (
       SELECT jsonb_agg(CASE WHEN kept ->> 'table' = 'comment' THEN jsonb_set(kept, '{rows}', coalesce((
         SELECT jsonb_agg(one) FROM jsonb_array_elements(kept -> 'rows') one WHERE NOT coalesce(${ofWriter('one')}, false)), '[]')) ELSE kept END)
       FROM jsonb_array_elements(rows) kept)
     WHERE rows @? '$[*] ? (@.table == "comment")'`,
    marks,
  )
  // The change of the bin was logged with what it was.
  await manager.query(
    `UPDATE change_log SET before = NULL, after = NULL, fields = NULL
     WHERE source = 'deleted_row' AND (before::text LIKE '%"comment"%' OR after::text LIKE '%"comment"%')
       AND transaction = pg_current_xact_id()::text::bigint`,
  )
}

/** Deletes comments for good that were deleted longer ago, unless others have replied to them. */
export const purgeDeletedComments = (manager: EntityManager, days: number) =>
  manager.query(
    `DELETE FROM comment c WHERE c.state = 'deleted' AND c.state_at < now() - make_interval(days => $1)
       AND NOT EXISTS (SELECT FROM comment reply WHERE reply.parent_id = c.id)`,
    [days],
  )
