/** Listings of a large blog: compared with handwritten SQL on the same rows, and while it grows to a million posts. */
import pg from 'pg'
import { answer } from '../server/reader/answer.ts'
import { internalRequest } from '../server/reader/request.ts'
import { Blog } from '../server/reader/blog.ts'
import { edgeAt, runQuery, type PageAsked } from '../server/store/statements/run-query.ts'
import { buildSite, queryInForce } from '../server/publish/site.ts'
import { loadDocuments } from '../server/publish/documents.ts'
import { readMeaning, type QueryMeaning } from '../core/queries/meaning.ts'
import { compileQuery } from '../server/store/statements/compile-query.ts'
import { poolOf } from '../server/store/connection.ts'
import { fillBasics, fillTo, wordOfRank } from '../server/growth/fill.ts'
import { makeScratch, type Scratch } from '../server/growth/scratch.ts'
import { referenceApp } from './reference/posts.ts'

export interface ListingFigure {
  what: string
  measured: string
  ratio: string
  goal: string
}

const TURNS = 25
const median = (values: readonly number[]) =>
  [...values].sort((a, b) => a - b)[Math.floor(values.length / 2)] ?? 0
const text = (milliseconds: number) =>
  `${milliseconds >= 10 ? milliseconds.toFixed(0) : milliseconds.toFixed(2)} ms`

/** Returns the medians of functions that take turns. The first turns are not counted. */
async function inTurns(...works: (() => Promise<unknown>)[]): Promise<number[]> {
  const taken: number[][] = works.map(() => [])
  for (let turn = -3; turn < TURNS; turn++)
    for (const [index, work] of works.entries()) {
      const start = performance.now()
      await work()
      if (turn >= 0) taken[index]?.push(performance.now() - start)
    }
  return taken.map(median)
}

/** The journal's listing, written by hand. */
const BY_HAND = `SELECT p.id, p.title, p.slug, p.excerpt, p.published_at, c.id AS category_id, c.name AS category_name, c.slug AS category_slug,
  a.id AS author_id, a.name AS author_name, i.id AS image_id, i.name AS image_name, i.width AS image_width, i.height AS image_height,
  (SELECT count(*) FROM comment k WHERE k.post_id = p.id AND k.state = 'shown') AS comments
  FROM post p LEFT JOIN category c ON c.id = p.category_id LEFT JOIN author a ON a.id = p.author_id LEFT JOIN image i ON i.id = p.image_id
  WHERE p.published_at <= now() ORDER BY p.published_at DESC, p.id DESC LIMIT 6 OFFSET $1`
const TOTAL = 'SELECT count(*) AS total FROM post WHERE published_at <= now()'

const listing = (pages: object): QueryMeaning => {
  const read = readMeaning({
    from: 'posts',
    with: ['category', 'author', 'image', 'commentCount'],
    where: ['published'],
    order: ['-publishedAt'],
    take: 'pages',
    pages: { size: 6, ...pages },
  })
  if (!read.ok) throw new Error(JSON.stringify(read.problems))
  return read.meaning
}

export async function listingFigures(blog: Blog, say: (line: string) => void): Promise<ListingFigure[]> {
  const found: ListingFigure[] = []
  for (const measure of [besideByHand, whileGrowing]) {
    const scratch = await makeScratch(blog.database)
    const url = (scratch.database.options as { url: string }).url
    const pool = new pg.Pool({ connectionString: url, max: 10 })
    // Dropping the database ends its connections, which is expected.
    pool.on('error', () => undefined)
    try {
      found.push(...(await measure({ blog, scratch, pool, say })))
    } finally {
      await scratch.drop()
      await pool.end().catch(() => undefined)
    }
  }
  return found
}

interface Bench {
  blog: Blog
  scratch: Scratch
  pool: pg.Pool
  say(line: string): void
}

const NEVER = new AbortController().signal

async function fill(
  { scratch, say }: Bench,
  before: number,
  size: number,
  needs: { comments: boolean; words: boolean },
): Promise<void> {
  say(`  filling to ${size.toLocaleString('en-GB')} posts …`)
  await fillTo(scratch.database, before, size, needs, NEVER, () => undefined)
}

/** Compares with handwritten code at 100,000 posts, and measures searches. */
async function besideByHand(bench: Bench): Promise<ListingFigure[]> {
  const { blog, pool } = bench
  const { database } = bench.scratch
  const found: ListingFigure[] = []
  const needs = { comments: true, words: true }
  await fillBasics(database, needs)
  await fill(bench, 0, 100_000, needs)
  const site = buildSite(database, await loadDocuments(blog.database))
  if (!site.ok) throw new Error(JSON.stringify(site.problems))
  const large = new Blog({ database, site: site.value, log: blog.log, fragments: 'off' })
  const journal = site.value.reading.get('posts')?.get('posts')
  if (!journal) throw new Error('The demo has no journal.')
  for (const number of [1, 100, 10_000]) {
    const values = [(number - 1) * 6]
    const [hand = 0, ours = 0] = await inTurns(
      () =>
        Promise.all([
          pool.query({ name: 'by-hand', text: BY_HAND, values }),
          pool.query({ name: 'total', text: TOTAL }),
        ]),
      () =>
        runQuery(large.pool, {
          name: journal.name,
          meaning: journal.meaning,
          compiled: journal.compiled.reader,
          parameters: {},
          page: { number },
        }),
    )
    found.push({
      what: `  listing query, page ${number.toLocaleString('en-GB')}; by hand: ${text(hand)}`,
      measured: text(ours),
      ratio: (ours / hand).toFixed(2),
      goal: number === 1 ? '≤ 1.3' : '',
    })
  }
  const reference = referenceApp(pool)
  const request = internalRequest('/posts')
  const [hand = 0, ours = 0] = await inTurns(
    async () => await (await reference.request('/posts')).text(),
    () => answer(large, request),
  )
  found.push({
    what: `  whole request for /posts, no fragments; by hand: ${text(hand)}`,
    measured: text(ours),
    ratio: (ours / hand).toFixed(2),
    goal: '≤ 1.5',
  })
  const search = site.value.reading.get('search')?.get('posts')
  if (search)
    for (const rank of [3, 12, 40, 120, 250, 450]) {
      const q = wordOfRank(rank)
      // As in a request, the condition on the absent category is skipped.
      const { name, meaning, compiled } = queryInForce(database, site.value, search, { q })
      const [time = 0] = await inTurns(() =>
        runQuery(large.pool, {
          name,
          meaning,
          compiled: compiled.reader,
          parameters: { q },
          page: { number: 1 },
        }),
      )
      const { rows } = await pool.query<{ n: number }>(
        "SELECT count(*)::int AS n FROM post WHERE search @@ websearch_to_tsquery('simple', $1)",
        [q],
      )
      found.push({
        what: `  search for a word in ${(rows[0]?.n ?? 0).toLocaleString('en-GB')} posts`,
        measured: text(time),
        ratio: '',
        goal: '≤ 50 ms',
      })
    }
  return found
}

/** From 1,000 to 1,000,000 posts: the first page and later pages. */
async function whileGrowing(bench: Bench): Promise<ListingFigure[]> {
  const { database } = bench.scratch
  const found: ListingFigure[] = []
  const needs = { comments: true, words: false }
  await fillBasics(database, needs)
  const estimated = listing({ count: 'estimated' })
  const cursor = listing({ by: 'cursor' })
  const locale = bench.blog.site.definition
  const run = async (meaning: QueryMeaning, page: PageAsked) =>
    await runQuery(poolOf(database), {
      name: 'listing',
      meaning,
      compiled: compileQuery(database, meaning, 'reader', locale),
      parameters: {},
      page,
    })
  await fill(bench, 0, 1_000, needs)
  const [small = 0] = await inTurns(() => run(estimated, { number: 1 }))
  await fill(bench, 1_000, 1_000_000, needs)
  const [million = 0, exact = 0] = await inTurns(
    () => run(estimated, { number: 1 }),
    () => run(listing({}), { number: 1 }),
  )
  found.push({
    what: `  page 1 at 1,000,000 posts, estimated total; at 1,000: ${text(small)}`,
    measured: text(million),
    ratio: (million / small).toFixed(2),
    goal: '≤ 2',
  })
  found.push({
    what: '  the same, counted exactly',
    measured: text(exact),
    ratio: (exact / small).toFixed(2),
    goal: '',
  })
  const at = async (place: number): Promise<PageAsked> => {
    const values = await edgeAt(
      poolOf(database),
      {
        name: 'listing',
        meaning: cursor,
        compiled: compileQuery(database, cursor, 'reader', locale),
        parameters: {},
      },
      place,
    )
    return { cursor: values ? { toward: 'after', values } : null }
  }
  const [middle, deep] = [await at(480_000), await at(960_000)]
  const [first = 0, half = 0, last = 0, numbered = 0] = await inTurns(
    () => run(cursor, { cursor: null }),
    () => run(cursor, middle),
    () => run(cursor, deep),
    () => run(estimated, { number: 160_000 }),
  )
  found.push({
    what: `  by cursor, after 480,000 posts; first page: ${text(first)}`,
    measured: text(half),
    ratio: (half / first).toFixed(2),
    goal: '≤ 1.5',
  })
  found.push({
    what: '  by cursor, after 960,000 posts',
    measured: text(last),
    ratio: (last / first).toFixed(2),
    goal: '≤ 1.5',
  })
  found.push({
    what: '  by page number, page 160,000; ratio to page 1',
    measured: text(numbered),
    ratio: (numbered / million).toFixed(1),
    goal: '',
  })
  return found
}
