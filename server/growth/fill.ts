/**
 * Generates any number of posts, always the same ones, distributed as in real blogs: a few categories, authors and tags
 * have most of the posts (Zipf), posts come in bursts, some are drafts or scheduled, and few have most of the comments.
 */
import type { DataSource } from 'typeorm'

/** The numbers of other rows, independent of the number of posts. */
const CATEGORIES = 24
const AUTHORS = 12
const TAGS = 60
const YEARS = 12
/** Average number of posts in a burst. */
const BURST = 8
/** Length of a post's text, in characters. */
const TEXT = 700

export interface Filling {
  /** Whether comments are generated: measurements that do not read them need not wait for them. */
  comments: boolean
  /** Whether texts and their search words are generated. */
  words: boolean
}

/** The words of the texts, most frequent first. */
const VOCABULARY = Array.from({ length: 600 }, (_, index) => invented(index))

/** Returns a pronounceable word such as `lorimat`. */
function invented(index: number): string {
  const [consonants, vowels] = ['bdfgklmnprstv', 'aeiou']
  let word = ''
  for (let rest = index * 7 + 11, at = 0; at < 2 + (index % 3); at++) {
    word += `${consonants[rest % 13] ?? ''}${vowels[(rest + at) % 5] ?? ''}`
    rest = Math.floor(rest / 13) + index * 3 + at
  }
  return `${word}${consonants[index % 13] ?? ''}`
}

/** Returns the word at a rank of frequency, to search for a frequent or a rare one. */
export const wordOfRank = (rank: number): string => VOCABULARY[rank] ?? ''

/** Cumulative Zipf weights. A number of 0 … 1 selects one of them. */
function cumulative(count: number): number[] {
  const weights = Array.from({ length: count }, (_, index) => 1 / (index + 1))
  const all = weights.reduce((sum, one) => sum + one, 0)
  let sum = 0
  return weights.map((one) => (sum += one) / all)
}

/** A long text to cut from, with words by their frequency. It is always the same. */
function textPool(characters: number): string {
  const shares = cumulative(VOCABULARY.length)
  let [seed, text] = [12_345, '']
  while (text.length < characters) {
    seed = (seed * 1_103_515_245 + 12_345) % 2_147_483_648
    const at = shares.findIndex((one) => one >= seed / 2_147_483_648)
    text += `${VOCABULARY[at] ?? ''} `
  }
  return text
}
/** Number of different texts: enough that neighbouring posts differ, few enough to be kept in memory. */
const TEXTS = 997
const POOL = textPool(TEXTS * 24 + TEXT)

/** Returns a number of 0 … 1 for a row, always the same. Another `salt` gives another number. */
const random = (row: string, salt: number) =>
  `((hashint8extended(${row}, ${salt}) & 4503599627370495)::float8 / 4503599627370496.0)`
/** Returns a 1-based rank; the first is the most frequent. */
const zipf = (count: number, row: string, salt: number) =>
  `1 + width_bucket(${random(row, salt)}, ARRAY[${cumulative(count).slice(0, -1).join(', ')}]::float8[])`

/** Generates the rows that posts refer to. */
export async function fillBasics(database: DataSource, { words }: Filling): Promise<void> {
  await database.query(
    `INSERT INTO category (name, slug, position, parent_id) SELECT 'Category ' || n, 'c' || n, n, CASE WHEN n > 6 THEN 1 + n % 6 END FROM generate_series(1, ${CATEGORIES}) n`,
  )
  await database.query(
    `INSERT INTO author (name, slug) SELECT 'Author ' || n, 'a' || n FROM generate_series(1, ${AUTHORS}) n`,
  )
  await database.query(
    `INSERT INTO tag (name, slug) SELECT 'tag ' || n, 't' || n FROM generate_series(1, ${TAGS}) n`,
  )
  await database.query(
    'CREATE UNLOGGED TABLE text_pool (id int PRIMARY KEY, title text, excerpt text, text text)',
  )
  const pieces = Array.from({ length: TEXTS }, (_, index) => POOL.slice(index * 24, index * 24 + TEXT))
  await database.query(
    `INSERT INTO text_pool SELECT n - 1, initcap(trim(left(piece, 40))), trim(left(piece, 150)), piece
     FROM unnest($1::text[]) WITH ORDINALITY AS pieces(piece, n)`,
    [pieces],
  )
  await database.query('ANALYZE text_pool')
  // What triggers would compute row by row is computed for many rows at once.
  for (const trigger of ['comment_place', 'comment_below', 'tally_insert', 'tally_update', 'tally_delete'])
    await database.query(`ALTER TABLE comment DISABLE TRIGGER ${trigger}`)
  for (const table of ['comment', 'comment_tally', 'post_tag'])
    await database.query(`ALTER TABLE ${table} SET UNLOGGED`)
  await database.query('ALTER TABLE former_slug SET UNLOGGED')
  await database.query('ALTER TABLE post SET UNLOGGED')
  if (!words) await database.query('ALTER TABLE post DISABLE TRIGGER post_search_words')
}

/** Rows per statement. Cancelling takes effect between two statements. */
const BATCH = 20_000

/**
 * Adds posts up to a number. Indexes are created afterwards.
 * @param before the present number of posts
 */
export async function fillTo(
  database: DataSource,
  before: number,
  size: number,
  { comments, words }: Filling,
  signal: AbortSignal,
  progress: (posts: number) => void,
): Promise<void> {
  const dropped = await dropIndexes(database, words)
  for (let from = before + 1; from <= size; from += BATCH) {
    signal.throwIfAborted()
    const to = Math.min(size, from + BATCH - 1)
    await addPosts(database, from, to, words)
    await addTags(database, from, to)
    // Old posts have had the most time to collect comments, and few posts have most of them.
    if (comments) await addComments(database, from, to)
    progress(to)
  }
  await database.query(
    `INSERT INTO comment_tally SELECT post_id, count(*) FROM comment WHERE state = 'shown' GROUP BY post_id
     ON CONFLICT (post_id) DO UPDATE SET shown = EXCLUDED.shown`,
  )
  for (const sql of dropped) {
    signal.throwIfAborted()
    await database.query(sql)
  }
  for (const table of ['post', 'post_tag', 'comment', 'comment_tally', 'category', 'author', 'tag']) {
    signal.throwIfAborted()
    await database.query(`VACUUM (ANALYZE) ${table}`)
  }
}

/**
 * Drops the indexes that no constraint needs.
 * @returns the statements that create them again. Indexes of words take longest and are only included if they are needed.
 */
async function dropIndexes(database: DataSource, words: boolean): Promise<string[]> {
  const rows = await database.query<{ name: string; sql: string; kind: string }[]>(
    `SELECT class.relname AS name, pg_get_indexdef(class.oid) AS sql, access.amname AS kind
     FROM pg_index index JOIN pg_class class ON class.oid = index.indexrelid JOIN pg_class own ON own.oid = index.indrelid
       JOIN pg_am access ON access.oid = class.relam
     WHERE own.relname IN ('post', 'post_tag', 'comment') AND own.relnamespace = 'public'::regnamespace
       AND NOT EXISTS (SELECT 1 FROM pg_constraint WHERE conindid = class.oid)`,
  )
  for (const { name } of rows) await database.query(`DROP INDEX "${name}"`)
  return rows.filter((one) => words || one.kind !== 'gin').map((one) => one.sql)
}

async function addPosts(database: DataSource, from: number, to: number, words: boolean): Promise<void> {
  // A burst starts somewhere within the years, and its posts follow within days.
  const burst = `((n / ${BURST})::bigint)`
  const ago = `interval '${YEARS} years' * ${random(burst, 1)} - interval '2 days' * (-ln(1 - ${random('n', 2)}))`
  const textAt = `(n * 389 % ${TEXTS})`
  await database.query(
    `INSERT INTO post (title, slug, excerpt, body, html, pipeline, word_count, category_id, author_id, published_at, comments_open, created_at, updated_at)
     SELECT pool.title, 'post-' || n, pool.excerpt, ${words ? 'pool.text' : "''"}, '<p>' || pool.text || '</p>', '2',
       100 + floor(1400 * ${random('n', 6)} * ${random('n', 7)})::int,
       CASE WHEN ${random('n', 8)} < 0.97 THEN ${zipf(CATEGORIES, 'n', 9)} END, ${zipf(AUTHORS, 'n', 10)},
       CASE WHEN ${random('n', 11)} < 0.03 THEN NULL
            WHEN ${random('n', 11)} < 0.035 THEN now() + interval '30 days' * ${random('n', 12)}
            ELSE least(now() - (${ago}), now()) END,
       ${random('n', 13)} < 0.9, now(), now()
     FROM generate_series($1::bigint, $2::bigint) n JOIN text_pool pool ON pool.id = ${textAt}`,
    [from, to],
  )
}

async function addTags(database: DataSource, from: number, to: number): Promise<void> {
  await database.query(
    `INSERT INTO post_tag (post_id, tag_id)
     SELECT n, ${zipf(TAGS, '(n * 5 + k)', 20)} FROM generate_series($1::bigint, $2::bigint) n, generate_series(1, 3) k
     WHERE ${random('(n * 7 + k)', 21)} < 0.6 ON CONFLICT DO NOTHING`,
    [from, to],
  )
}

async function addComments(database: DataSource, from: number, to: number): Promise<void> {
  await database.query(
    `INSERT INTO comment (id, post_id, name, text, state, created_at, started_at, thread)
     SELECT n, 1 + floor(power(${random('n', 30)}, 3) * $2)::int, 'Reader ' || n % 900, pool.excerpt,
       CASE WHEN ${random('n', 31)} < 0.9 THEN 'shown' ELSE 'waiting' END, wrote.at, wrote.at, lpad(to_hex((extract(epoch FROM wrote.at) * 1000000)::bigint), 14, '0') || lpad(to_hex(n), 8, '0')
     FROM generate_series($1::bigint, $2::bigint) n JOIN text_pool pool ON pool.id = n % ${TEXTS}
       CROSS JOIN LATERAL (SELECT now() - interval '${YEARS} years' * ${random('n', 32)} AS at) wrote`,
    [from, to],
  )
}
