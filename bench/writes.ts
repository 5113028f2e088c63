/** What writes cost: the change log, the copies that a save keeps, and how long readers wait meanwhile. */
import { write } from '../server/author/writing.ts'
import { matterOf } from '../server/author/posts/post-file.ts'
import { savePost } from '../server/author/posts/save-post.ts'
import { findPost } from '../server/author/posts/stored-post.ts'
import { saveDocuments } from '../server/author/documents/documents.ts'
import { answer } from '../server/reader/answer.ts'
import type { Blog } from '../server/reader/blog.ts'
import { internalRequest } from '../server/reader/request.ts'
import { LOGGED_TABLES } from '../server/store/migrations/change-log.ts'
import { DocumentEntity } from '../server/store/entities/definition.ts'

export interface WriteFigure {
  what: string
  value: string
  goal: string
}

const SLUG = 'moth'
const COPIES = 1_000
const TURNS = 200
const SAVES = 6
/** The 99th percentile. */
const MOST = 0.99

const at = (values: readonly number[], part: number) =>
  [...values].sort((a, b) => a - b)[Math.min(values.length - 1, Math.floor(values.length * part))] ?? 0
const milliseconds = (value: number) => `${value.toFixed(2)} ms`

/** A write of a post, as the unit of work runs it, in turns with and without the triggers of the change log. */
async function costOfLog(blog: Blog): Promise<WriteFigure> {
  const taken: Record<'with' | 'without', number[]> = { with: [], without: [] }
  const trigger = (state: 'ENABLE' | 'DISABLE') =>
    blog.database.query(
      LOGGED_TABLES.flatMap((table) =>
        ['insert', 'update', 'delete'].map((event) => `ALTER TABLE ${table} ${state} TRIGGER log_${event}`),
      ).join('; '),
    )
  const post = await findPost(blog.database, SLUG)
  if (!post) throw new Error(`There is no post “${SLUG}”.`)
  const { body } = post
  const matter = matterOf(post)
  let { version } = post
  for (let round = 0; round < 4; round++)
    for (const kind of ['with', 'without'] as const) {
      await trigger(kind === 'with' ? 'ENABLE' : 'DISABLE')
      for (let turn = 0; turn < TURNS / 4; turn++) {
        const start = performance.now()
        const saved = await write(blog, (writing) =>
          savePost(writing, { slug: SLUG, version }, { matter: { ...matter, title: `Moth ${turn}` }, body }),
        )
        if (!saved.ok) throw new Error(JSON.stringify(saved.problems))
        version = saved.value.version
        taken[kind].push(performance.now() - start)
      }
    }
  await trigger('ENABLE')
  const [own, without] = [at(taken.with, 0.5), at(taken.without, 0.5)]
  return {
    what: '  a post saved, with the change log and without',
    value: `${milliseconds(own)} / ${milliseconds(without)} = ${(own / without).toFixed(2)}`,
    goal: '≤ 1.3',
  }
}

/** Fills the store with copies of many posts and pages, saves one template, and counts what is left. */
async function copiesKept(blog: Blog): Promise<WriteFigure> {
  const { database } = blog
  await database.query(
    `INSERT INTO post (title, slug, excerpt, body, html, pipeline, word_count, category_id, author_id, image_id, published_at)
     SELECT title, 'copy-' || n || '-' || id, excerpt, 'x', 'x', pipeline, 1, category_id, author_id, image_id, now() - n * interval '1 hour'
     FROM post CROSS JOIN generate_series(1, $1::int) n WHERE published_at <= now()`,
    [Math.ceil(COPIES / 40)],
  )
  for (let page = 1; blog.fragments.bytes < 16e6 && page < 220; page++) {
    const { status } = await answer(blog, internalRequest(page === 1 ? '/posts' : `/posts?page=${page}`))
    if (status !== 200) break
  }
  const before = [...blog.fragments.entries()].length
  const path = 'templates/partials/aside.liquid'
  const row = await database.getRepository(DocumentEntity).findOneByOrFail({ path })
  await write(blog, (writing) =>
    saveDocuments(
      writing,
      [{ path, text: row.text.replace('<aside', '<!-- changed --><aside'), version: row.version }],
      blog.publishing(),
    ),
  )
  const after = [...blog.fragments.entries()].length
  await database.query("DELETE FROM post WHERE slug LIKE 'copy-%'")
  return {
    what: `  copies kept when a template is saved, of ${before.toLocaleString('en-GB')}`,
    value: `${((after / before) * 100).toFixed(1)} %`,
    goal: '≥ 90 %',
  }
}

/** How much longer readers wait while documents are saved. */
async function waitDuringSave(blog: Blog): Promise<WriteFigure> {
  const latencies = async (while_: Promise<unknown>) => {
    const taken: number[] = []
    let isOver = false
    void while_.finally(() => (isOver = true))
    while (!isOver) {
      const start = performance.now()
      await answer(blog, internalRequest('/posts/zip-surgery'))
      taken.push(performance.now() - start)
      await new Promise((done) => setImmediate(done))
    }
    return taken
  }
  const pause = () => new Promise((done) => setTimeout(done, 600))
  const quiet: number[] = []
  const busy: number[] = []
  const path = 'templates/partials/card.liquid'
  for (let turn = 0; turn < SAVES; turn++) {
    quiet.push(...(await latencies(pause())))
    const row = await blog.database.getRepository(DocumentEntity).findOneByOrFail({ path })
    busy.push(
      ...(await latencies(
        write(blog, (writing) =>
          saveDocuments(writing, [{ path, text: `${row.text} `, version: row.version }], blog.publishing()),
        ),
      )),
    )
  }
  const [before, during] = [at(quiet, MOST), at(busy, MOST)]
  return {
    what: '  99th percentile of a page, while a template is saved and otherwise',
    value: `${milliseconds(during)} / ${milliseconds(before)}`,
    goal: 'at most 20 ms more',
  }
}

export async function writeFigures(blog: Blog): Promise<WriteFigure[]> {
  return [await costOfLog(blog), await copiesKept(blog), await waitDuringSave(blog)]
}
