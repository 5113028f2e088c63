/** Searches in the stored HTML of posts and pages, and batches of texts to render again. */
import type { DataSource, EntityManager } from 'typeorm'
import type { Queryable } from '../connection.ts'

export interface StoredText {
  kind: 'post' | 'page'
  /** The slug of a post, or the path of a page. */
  name: string
  title: string
  html: string
  isPublic: boolean
}

/** Returns the texts whose HTML contains a part. */
export async function textsContaining(pool: Queryable, part: string): Promise<StoredText[]> {
  const { rows } = await pool.query<StoredText>(
    `SELECT 'post' AS kind, slug AS name, title, html, coalesce(published_at <= now(), false) AS "isPublic" FROM post WHERE html LIKE $1
     UNION ALL SELECT 'page', path, title, html, true FROM page WHERE html LIKE $1`,
    [`%${part}%`],
  )
  return rows
}

/** A text in which HTML may be typed. */
export interface TypedText {
  kind: 'post' | 'page'
  name: string
  title: string
  body: string
  isPublic: boolean
}

/**
 * Returns the texts that contain a tag, the latest first.
 * @param limit the number of texts
 * @param characters of all of them together
 */
export const textsWithTags = (pool: Queryable, limit: number, characters: number): Promise<TypedTexts> =>
  textsLike(pool, '<[a-zA-Z][^<]*>', limit, characters)

/** Returns the texts with what may be Markdown that has gone wrong, or without anything, the latest first. */
export const textsWithMarks = (pool: Queryable, limit: number, characters: number): Promise<TypedTexts> =>
  textsLike(
    pool,
    '^\\s*$|```|~~~|\\]\\s?\\(|\\*\\*|\\[\\^|##|\\|\\s*:?---|\n[-+]\\S|\\{\\{|\\{%',
    limit,
    characters,
  )

interface TypedTexts {
  rows: TypedText[]
  total: number
}

/** @param pattern a regular expression of PostgreSQL */
async function textsLike(
  pool: Queryable,
  pattern: string,
  limit: number,
  characters: number,
): Promise<TypedTexts> {
  const { rows } = await pool.query<TypedText & { total: number }>(
    `SELECT * FROM (SELECT *, count(*) OVER ()::int AS total, sum(length(body)) OVER (ORDER BY updated_at DESC, kind, name) AS characters FROM (
       SELECT 'post' AS kind, slug AS name, title, body, coalesce(published_at <= now(), false) AS "isPublic", updated_at FROM post WHERE body ~ $1
       UNION ALL SELECT 'page', path, title, body, true, updated_at FROM page WHERE body ~ $1) typed) counted
     WHERE characters <= $3 ORDER BY updated_at DESC, kind, name LIMIT $2`,
    [pattern, limit, characters],
  )
  return { rows, total: rows[0]?.total ?? 0 }
}

/** Counts in how many of the latest posts and pages each HTML element is used. @param latest texts of each kind */
export async function elementUses(database: DataSource, latest: number): Promise<Map<string, number>> {
  const rows = await database.query<{ name: string; texts: number }[]>(
    `SELECT found[1] AS name, count(DISTINCT source || id)::int AS texts
     FROM ((SELECT 'post' AS source, id, html FROM post ORDER BY id DESC LIMIT $1)
       UNION ALL (SELECT 'page', id, html FROM page ORDER BY id DESC LIMIT $1)) stored,
       regexp_matches(html, '<([a-z][a-z0-9]*)[ >]', 'g') found GROUP BY found[1]`,
    [latest],
  )
  return new Map(rows.map((one) => [one.name, one.texts]))
}

export interface OutdatedText {
  id: number
  body: string
  html: string
  writtenExcerpt: string | null
}

export interface OutdatedTexts {
  table: 'post' | 'page'
  /** Texts that another pipeline rendered. */
  pipeline: string
  /** The name of an image: texts that show it, whatever pipeline rendered them. */
  showing?: string | undefined
}

/** Returns the next texts to render again, in order of their ids. */
export const outdatedTexts = (
  database: DataSource,
  { table, pipeline, showing }: OutdatedTexts,
  after: number,
  limit: number,
): Promise<OutdatedText[]> =>
  database.query<OutdatedText[]>(
    `SELECT id, body, html, ${table === 'post' ? 'written_excerpt' : 'NULL'} AS "writtenExcerpt" FROM ${table}
     WHERE id > $2 AND ($3::text IS NULL AND pipeline <> $1 OR strpos(body, $3) > 0) ORDER BY id LIMIT $4`,
    [pipeline, after, showing === undefined ? null : `/media/${showing}`, limit],
  )

/**
 * Stores the language in which posts are indexed for search. The trigger reads it for every row.
 * @returns whether it changed
 */
export async function storeSearchLanguage(
  database: DataSource | EntityManager,
  configuration: string,
): Promise<boolean> {
  const rows = await database.query<unknown[]>(
    `INSERT INTO setting (name, value) VALUES ('search-language', to_jsonb($1::text))
     ON CONFLICT (name) DO UPDATE SET value = EXCLUDED.value WHERE setting.value <> EXCLUDED.value RETURNING name`,
    [configuration],
  )
  return rows.length > 0
}

/** Indexes the next posts for search again. @returns their ids */
export async function reindexPosts(database: DataSource, after: number, limit: number): Promise<number[]> {
  // The trigger fills in the words where they are set to null.
  const [rows] = await database.query<[{ id: number }[], number]>(
    'UPDATE post SET search = NULL WHERE id IN (SELECT id FROM post WHERE id > $1 ORDER BY id LIMIT $2) RETURNING id',
    [after, limit],
  )
  return rows.map((one) => one.id)
}

/** Updates the planner's statistics after many rows were inserted. */
export const analyseContent = (database: DataSource): Promise<unknown> =>
  database.query('ANALYZE post, page, category, tag, post_tag, author, comment, image')

/** Returns the number of search terms in a text: 0 if it has only stop words. */
export async function searchTermsIn(pool: Queryable, configuration: string, text: string): Promise<number> {
  const { rows } = await pool.query<{ words: number }>(
    'SELECT numnode(websearch_to_tsquery($1::regconfig, $2)) AS words',
    [configuration, text],
  )
  return rows[0]?.words ?? 0
}
