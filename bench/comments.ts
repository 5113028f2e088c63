/** What comments cost: sending them, reading long threads, moderating many, and readers beside the worst searches. */
import { randomUUID } from 'node:crypto'
import { setTimeout } from 'node:timers/promises'
import { setState } from '../server/author/comments/moderate.ts'
import { write } from '../server/author/writing.ts'
import { answer } from '../server/reader/answer.ts'
import type { Blog } from '../server/reader/blog.ts'
import { formToken } from '../server/reader/comments/token.ts'
import { visitorOf } from '../server/reader/comments/visitor.ts'
import { internalRequest } from '../server/reader/request.ts'
import { CommentEntity } from '../server/store/entities/content.ts'
import { DocumentEntity } from '../server/store/entities/definition.ts'
import { saveDocuments } from '../server/author/documents/documents.ts'

export interface CommentFigure {
  what: string
  value: string
  ratio: string
  goal: string
}

/** The posts with few comments and with many. */
const FEW = 'moth'
const MANY = 'zip-surgery'
const FEW_COMMENTS = 50
const MANY_COMMENTS = 100_000
const TURNS = 21
const SENT = 1_000
const AT_ONCE = 20
const MODERATED = 500
const READS = 200
const SEARCHES = 12
/** How long the checks of the demo take at most, in milliseconds. */
const AFTER_SAVE = 12_000

const sorted = (values: readonly number[]) => [...values].sort((a, b) => a - b)
const median = (values: readonly number[]) => sorted(values)[Math.floor(values.length / 2)] ?? 0
const p99 = (values: readonly number[]) => sorted(values)[Math.floor(values.length * 0.99)] ?? 0
const milliseconds = (value: number) => `${value.toFixed(1)} ms`

async function timed(work: () => Promise<unknown>): Promise<number> {
  const began = performance.now()
  await work()
  return performance.now() - began
}

/** Sends a comment as a browser does. @returns the address that follows */
async function send(blog: Blog, slug: string, text: string): Promise<string> {
  const request = internalRequest(`/posts/${slug}/comments`, { method: 'POST' })
  const { writer } = visitorOf(blog, request)
  const opened = new Date(blog.clock().getTime() - 60_000)
  const token = formToken(blog, randomUUID(), { writer, client: null }, opened)
  const form = () => Promise.resolve({ ok: true as const, fields: { token, name: 'Vera', text } })
  const { status, headers } = await answer(blog, { ...request, origin: 'own', form })
  if (status !== 303) throw new Error(`A comment was answered with ${status}.`)
  return headers['location'] ?? ''
}

async function read(blog: Blog, path: string): Promise<void> {
  const { status } = await answer(blog, internalRequest(path))
  if (status !== 200) throw new Error(`${path} was answered with ${status}.`)
}

/** Rows that are inserted at a time. */
const BATCH = 5_000

async function fill(blog: Blog, slug: string, count: number): Promise<void> {
  for (let from = 1; from <= count; from += BATCH)
    await blog.database.query(
      `INSERT INTO comment (post_id, name, text, state, created_at)
       SELECT id, 'Reader ' || n, 'Comment number ' || n, 'shown', now() - n * interval '1 minute' - interval '1 day'
       FROM post CROSS JOIN generate_series($2::int, $3::int) n WHERE slug = $1`,
      [slug, from, Math.min(count, from + BATCH - 1)],
    )
}

/** Nothing limits the measurement: the rate, the state and the age of posts do not count. */
async function openRules(blog: Blog): Promise<void> {
  const settings = await blog.database.getRepository(DocumentEntity).findOneByOrFail({ path: 'blog.yaml' })
  const rules = 'comments: { show: at-once, rate: { per-address: 10000, per-post: 100000, within: 1m } }\n'
  const text = settings.text.replace(/^comments:\n(?: {2}.*\n)*/m, rules)
  const saved = await write(blog, (writing) =>
    saveDocuments(writing, [{ path: 'blog.yaml', text, version: settings.version }], blog.publishing(true)),
  )
  if (!saved.ok) throw new Error(JSON.stringify(saved.problems))
}

export async function commentFigures(blog: Blog): Promise<CommentFigure[]> {
  await openRules(blog)
  // The save starts the checks in their thread.
  await setTimeout(AFTER_SAVE)
  const found: CommentFigure[] = []
  const add = (what: string, value: string, ratio: string, goal: string) =>
    found.push({ what, value, ratio, goal })

  const visible: number[] = []
  for (let turn = 0; turn < TURNS; turn++)
    visible.push(
      await timed(async () => read(blog, (await send(blog, FEW, `Turn ${turn}`)).replace(/#.*/, ''))),
    )
  add(
    '  a comment sent, and the page that follows',
    milliseconds(median(visible)),
    '',
    '≤ 150 ms with script',
  )

  const open = await blog.database.query<{ slug: string }[]>(
    'SELECT slug FROM post WHERE published_at < now() AND comments_open ORDER BY id LIMIT 30',
  )
  for (const [where, slugs] of [
    ['on one post', [FEW]],
    [`on ${open.length} posts`, open.map((one) => one.slug)],
  ] as const) {
    const before = await blog.database.getRepository(CommentEntity).count()
    let next = 0
    const took = await timed(() =>
      Promise.all(
        Array.from({ length: AT_ONCE }, async () => {
          while (next < SENT) {
            const number = next++
            await send(blog, slugs[number % slugs.length] ?? FEW, `Comment ${number} ${where}`)
          }
        }),
      ),
    )
    const stored = (await blog.database.getRepository(CommentEntity).count()) - before
    add(
      `  ${SENT} comments sent ${where}, ${AT_ONCE} at a time`,
      `${((SENT / took) * 1_000).toFixed(0)} per second`,
      `${stored} of ${SENT} stored`,
      '≥ 200, none lost',
    )
  }

  await blog.database.query(
    'DELETE FROM comment WHERE post_id IN (SELECT id FROM post WHERE slug = ANY ($1))',
    [[FEW, MANY]],
  )
  await fill(blog, FEW, FEW_COMMENTS)
  await fill(blog, MANY, MANY_COMMENTS)
  await blog.database.query('ANALYZE comment')
  const pages: Record<'few' | 'many' | 'late', number[]> = { few: [], many: [], late: [] }
  for (let turn = 0; turn < TURNS; turn++) {
    pages.few.push(await timed(() => read(blog, `/posts/${FEW}`)))
    pages.many.push(await timed(() => read(blog, `/posts/${MANY}`)))
    pages.late.push(await timed(() => read(blog, `/posts/${MANY}?comments=1500`)))
  }
  add(`  the page of a post with ${FEW_COMMENTS} comments`, milliseconds(median(pages.few)), '1.00', '')
  add(
    `  with ${MANY_COMMENTS.toLocaleString('en-GB')}`,
    milliseconds(median(pages.many)),
    (median(pages.many) / median(pages.few)).toFixed(2),
    '≤ 1.5',
  )
  add('  its page 1,500 of comments', milliseconds(median(pages.late)), '', '')

  const rows = await blog.database
    .getRepository(CommentEntity)
    .find({ order: { id: 'DESC' }, take: MODERATED })
  const moderated = await timed(async () => {
    const done = await write(blog, (writing) => setState(writing, rows, 'spam'))
    if (!done.ok) throw new Error(JSON.stringify(done.problems))
  })
  add(`  ${MODERATED} comments moderated at once`, milliseconds(moderated), '', '≤ 2000 ms')

  // In turns, and each reader waits for the answer before the next request.
  const alone: number[] = []
  const beside: number[] = []
  const worst = encodeURIComponent(
    Array.from({ length: 20 }, (_, n) => `kettl${String.fromCharCode(97 + n)}*`).join(' '),
  )
  for (let turn = 0; turn < READS; turn++) alone.push(await timed(() => read(blog, '/posts')))
  let isDone = false
  const searching = Array.from({ length: SEARCHES }, async () => {
    while (!isDone) await answer(blog, internalRequest(`/search?q=${worst}`))
  })
  for (let turn = 0; turn < READS; turn++) beside.push(await timed(() => read(blog, '/posts')))
  isDone = true
  await Promise.all(searching)
  add('  GET /posts, 99th percentile', milliseconds(p99(alone)), '1.00', '')
  add(
    `  beside ${SEARCHES} endless searches of 20 words`,
    milliseconds(p99(beside)),
    (p99(beside) / p99(alone)).toFixed(2),
    '≤ 2',
  )
  return found
}
