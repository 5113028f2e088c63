/** Statements about comments that need SQL: what is known of a writer, of a post's form, and how often was written. */
import type { Queryable } from '../connection.ts'

export interface WriterHistory {
  /** Comments of this writer that are shown, as far as it matters: at most three. */
  shownBefore: number
  /** Comments with the same text in the last month: at most five. */
  repeated: number
  /** The authors of the blog. */
  authors: string[]
}

export async function writerHistory(
  pool: Queryable,
  { writer, text }: { writer: string; text: string },
): Promise<WriterHistory> {
  const { rows } = await pool.query<WriterHistory>({
    name: 'comment writer history',
    text: `SELECT
      (SELECT count(*)::int FROM (SELECT FROM comment WHERE writer = $1 AND state = 'shown' LIMIT 3) few) AS "shownBefore",
      (SELECT count(*)::int FROM (SELECT FROM comment WHERE md5(lower(text)) = md5(lower($2)) AND created_at > now() - interval '30 days' LIMIT 5) same) AS repeated,
      ARRAY(SELECT name FROM author) AS authors`,
    values: [writer, text],
  })
  return rows[0] ?? { shownBefore: 0, repeated: 0, authors: [] }
}

export interface FormPost {
  id: number
  slug: string
  title: string
  commentsOpen: boolean
  publishedAt: Date | null
}

export interface OwnComment {
  id: number
  parentId: number | null
  name: string
  text: string
  site: string
  avatar: string | null
  createdAt: Date
  isShown: boolean
}

export interface FormFacts {
  post: FormPost | null
  /** Comments of this writer that wait, or that can still be changed, oldest first. */
  own: OwnComment[]
  /** The shown comment that is replied to. */
  parent: { id: number; name: string; text: string } | null
  /** Whether a confirmation e-mail was sent to this writer recently and is still unanswered. */
  isUnconfirmed: boolean
}

/** Comments of one writer on one post that a page has room for. */
const OWN_LIMIT = 20

/** Reads what the form of a post depends on, in one statement. */
export async function formFacts(
  pool: Queryable,
  {
    post,
    writer,
    parent,
    since,
  }: {
    post: number
    /** null for a browser that has not written anything */
    writer: string | null
    parent: number | null
    /** Comments can be changed if they were written after it. */
    since: Date
  },
): Promise<FormFacts> {
  const { rows } = await pool.query<FormFacts>({
    name: 'comment form',
    text: `SELECT
      (SELECT jsonb_build_object('id', id, 'slug', slug, 'title', title, 'commentsOpen', comments_open, 'publishedAt', published_at) FROM post WHERE id = $1) AS post,
      (SELECT jsonb_build_object('id', id, 'name', name, 'text', text) FROM comment
       WHERE id = $3 AND post_id = $1 AND state = 'shown' AND parents_shown) AS parent,
      (SELECT coalesce(jsonb_agg(own ORDER BY id), '[]') FROM (
         SELECT id, parent_id AS "parentId", name, text, site, avatar, created_at AS "createdAt", state = 'shown' AS "isShown"
         FROM comment WHERE writer = $2 AND post_id = $1
           AND (state IN ('waiting', 'spam') OR (state = 'shown' AND parents_shown AND created_at > $4))
         ORDER BY id DESC LIMIT ${OWN_LIMIT}) own) AS own,
      EXISTS (SELECT FROM comment_subscription wanted JOIN comment ON comment.id = wanted.comment_id
        WHERE comment.writer = $2 AND comment.post_id = $1 AND wanted.confirmed_at IS NULL AND wanted.ended_at IS NULL
          AND wanted.asked_at > now() - interval '1 hour') AS "isUnconfirmed"`,
    values: [post, writer, parent, since],
  })
  const found = rows[0] ?? { post: null, own: [], parent: null, isUnconfirmed: false }
  const dated = <T extends object, K extends keyof T>(row: T, key: K): T => ({
    ...row,
    [key]: row[key] === null ? null : new Date(String(row[key])),
  })
  return {
    post: found.post && dated(found.post, 'publishedAt'),
    parent: found.parent,
    isUnconfirmed: found.isUnconfirmed,
    own: found.own.map((one) => dated(one, 'createdAt')),
  }
}

/**
 * Counts one more comment under a key, and returns the number within the last `within` milliseconds: that of the present
 * period, and of the one before as far as it still counts. Atomic, whichever process asks.
 */
export async function countRate(
  pool: Queryable,
  key: string,
  within: number,
): Promise<{ count: number; secondsLeft: number }> {
  const { rows } = await pool.query<{ count: number; former: number; elapsed: number }>({
    name: 'comment rate',
    text: `WITH period AS (SELECT to_timestamp(floor(extract(epoch FROM now()) / $2::float8) * $2) AS since)
      INSERT INTO comment_rate AS kept (key, since, count) SELECT $1, since, 1 FROM period
      ON CONFLICT (key, since) DO UPDATE SET count = kept.count + 1
      RETURNING count, extract(epoch FROM now() - since)::float8 AS elapsed,
        coalesce((SELECT before.count FROM comment_rate before WHERE before.key = kept.key
          AND before.since = kept.since - make_interval(secs => $2)), 0) AS former`,
    values: [key, within / 1_000],
  })
  const { count = 0, former = 0, elapsed = 0 } = rows[0] ?? {}
  const share = Math.max(0, 1 - (elapsed * 1_000) / within)
  return {
    count: count + former * share,
    secondsLeft: Math.max(1, Math.ceil(within / 1_000 - elapsed)),
  }
}

/** Forgets how often was written longer ago than a day. */
export const forgetRates = (pool: Queryable) =>
  pool.query("DELETE FROM comment_rate WHERE since < now() - interval '1 day'")
