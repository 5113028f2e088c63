/** Comments that a check adds in a transaction that is rolled back. */
import type { CommentState } from '../../../core/shapes/content-kinds.ts'
import type { Queryable } from '../connection.ts'

export interface ProbeComment {
  post: number
  state: CommentState
  name: string
  site: string
  text: string
  at: Date
}

/** @returns its id */
export async function addProbeComment(
  pool: Queryable,
  { post, state, name, site, text, at }: ProbeComment,
): Promise<number> {
  const { rows } = await pool.query<{ id: number }>(
    'INSERT INTO comment (post_id, state, name, site, text, created_at) VALUES ($1, $2, $3, $4, $5, $6) RETURNING id',
    [post, state, name, site, text, at],
  )
  return rows[0]?.id ?? 0
}

/** Deletes the comments of a post. */
export async function deleteComments(pool: Queryable, post: number): Promise<void> {
  await pool.query('DELETE FROM comment WHERE post_id = $1', [post])
}

/** Closes the comments of a post. */
export async function closeComments(pool: Queryable, post: number): Promise<void> {
  await pool.query('UPDATE post SET comments_open = false WHERE id = $1', [post])
}

/** Returns the newest public post besides one. */
export async function otherPost(pool: Queryable, post: number): Promise<number | undefined> {
  const { rows } = await pool.query<{ id: number }>(
    'SELECT id FROM post WHERE id <> $1 AND published_at <= now() ORDER BY published_at DESC, id DESC LIMIT 1',
    [post],
  )
  return rows[0]?.id
}

/** Returns the newest comment whose text has a part. */
export async function commentWith(
  pool: Queryable,
  part: string,
): Promise<{ id: number; name: string; email: string; site: string } | undefined> {
  const { rows } = await pool.query<{ id: number; name: string; email: string; site: string }>(
    'SELECT id, name, email, site FROM comment WHERE position($1 in text) > 0 ORDER BY id DESC LIMIT 1',
    [part],
  )
  return rows[0]
}
