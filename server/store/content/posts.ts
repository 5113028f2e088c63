/** Conditions of the author's list of posts: states by the database's clock, and words by its indexes. */
import type { EntityManager } from 'typeorm'
import type { PostState } from '../../../core/shapes/content-kinds.ts'
import type { Queryable } from '../connection.ts'
import { PostEntity } from '../entities/content.ts'

/** The SQL condition of each state. */
export const STATE_SQL: Readonly<Record<PostState, string>> = {
  draft: 'post.published_at IS NULL',
  scheduled: 'post.published_at > now()',
  published: 'post.published_at <= now()',
}

/** The SQL expression of a post's state. */
export const STATE_EXPRESSION =
  "CASE WHEN post.published_at IS NULL THEN 'draft' WHEN post.published_at > now() THEN 'scheduled' ELSE 'published' END"

/** The SQL expression of the number of comments that readers see. */
export const SHOWN_COMMENTS =
  'coalesce((SELECT tally.shown FROM comment_tally tally WHERE tally.post_id = post.id), 0)'

/** The expression of the index `post_words_idx`. */
const WORDS = "to_tsvector('simple', title || ' ' || body) @@ to_tsquery('simple', :words)"
const TITLE = 'title ILIKE :part'
const OWN_WORDS = WORDS.replace(/title|body/g, 'post.$&')

export interface SearchCondition {
  sql: string
  parameters: { part: string; words: string }
}

/**
 * Returns the SQL condition of a search by words or by a part of the title.
 * - `rare`: each index is searched on its own and the result is sorted. Otherwise the planner may walk all posts in order
 *   in the hope of meeting a page of matches early.
 * - `common`: for words that most posts contain, walking the posts in order is best.
 * - `words`: only the words, for counting by the index.
 */
export function searchCondition(text: string, how: 'rare' | 'common' | 'words'): SearchCondition {
  const words = wordsQuery(text)
  const byWords = words === '' ? '' : ` UNION SELECT id FROM post WHERE ${WORDS}`
  const sql = {
    rare: `post.id IN (SELECT id FROM post WHERE ${TITLE}${byWords})`,
    common: `(post.${TITLE} OR ${OWN_WORDS})`,
    words: OWN_WORDS,
  }[how]
  return { sql, parameters: { part: `%${text.replace(/[\\%_]/g, '\\$&')}%`, words } }
}

/** Returns a tsquery for all words, the last one as a prefix: `'blunt' & 'saw':*`. No text can be an operator. */
export function wordsQuery(text: string): string {
  const words = text.match(/[\p{L}\p{N}]+/gu) ?? []
  return words.map((word, index) => `'${word}'${index === words.length - 1 ? ':*' : ''}`).join(' & ')
}

/**
 * Returns how long it takes until the next scheduled post becomes due, and when that is; Infinity if none is scheduled, and
 * negative if one has become due since a moment in the past.
 * @param since how long ago that moment was, in milliseconds
 */
export async function untilDue(
  pool: Queryable,
  since: number,
): Promise<{ milliseconds: number; post: DueTime['post'] }> {
  const { rows } = await pool.query<{ wait: string | null; post: string | null }>(
    'SELECT extract(epoch FROM min(published_at) - now()) * 1000 AS wait, extract(epoch FROM min(published_at))::text AS post FROM post WHERE published_at > now() - make_interval(secs => $1)',
    [since / 1_000],
  )
  const { wait = null, post = null } = rows[0] ?? {}
  return { milliseconds: wait === null ? Infinity : Number(wait), post }
}

/** When the next scheduled post becomes due. */
export interface DueTime {
  /** By the clock of copies, in milliseconds; Infinity if none is scheduled. */
  at: number
  /** Its publication time in the database, in seconds since 1970; null if none is scheduled, undefined if unknown. */
  post: string | null | undefined
}

/** Returns the state of a post by the database's clock. */
export async function postState(manager: EntityManager, id: number): Promise<PostState> {
  const row = await manager
    .createQueryBuilder(PostEntity, 'post')
    .select(STATE_EXPRESSION, 'state')
    .where({ id })
    .getRawOne<{ state: PostState }>()
  return row?.state ?? 'draft'
}
