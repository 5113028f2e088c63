/** 100,000 posts: the times of the author's list, of searches, of imports and of previews. */
import { Client } from 'pg'
import { appearancesOf } from '../server/probes/appearances.ts'
import { answer } from '../server/reader/answer.ts'
import type { Blog } from '../server/reader/blog.ts'
import { rehearse } from '../server/probes/rehearse.ts'
import { runQuery } from '../server/store/statements/run-query.ts'
import { importPosts } from '../server/author/posts/import-posts.ts'
import { internalRequest } from '../server/reader/request.ts'
import { success } from '../core/shapes/outcome.ts'
import { listPosts, type PostFilter } from '../server/author/posts/post-list.ts'

const POSTS = 100_000
const TURNS = 7

export interface ContentFigure {
  what: string
  /** Medians, in milliseconds. */
  milliseconds: number
  goal: string
}

const FILTERS: readonly (readonly [string, PostFilter])[] = [
  ['no filter', {}],
  ['drafts', { state: 'draft' }],
  ['one category, page 100', { category: 'textiles', page: 100 }],
  ['by title', { sort: 'title' }],
  ['search: two words', { search: 'darning mush' }],
  ['search: part of a title', { search: 'zip surgery 777' }],
  ['search: no match', { search: 'xylophone' }],
  ['search: a word in every post', { search: 'the' }],
]

async function fill(url: string): Promise<void> {
  const client = new Client({ connectionString: url })
  await client.connect()
  await client.query(
    `INSERT INTO post (title, slug, excerpt, body, html, pipeline, word_count, category_id, author_id, image_id,
       image_text, published_at, comments_open)
     SELECT title || ' ' || n, left(slug, 80) || '-' || n, excerpt, left(body, 800), left(html, 800), pipeline,
       word_count, category_id, author_id, image_id, image_text, published_at - n * interval '7 minutes', comments_open
     FROM post CROSS JOIN generate_series(1, $1::int) AS n`,
    [Math.ceil((POSTS - 48) / 48)],
  )
  await client.query('ANALYZE post')
  await client.end()
}

async function median(work: () => Promise<unknown>): Promise<number> {
  const taken: number[] = []
  for (let turn = 0; turn < TURNS; turn++) {
    const start = performance.now()
    await work()
    taken.push(performance.now() - start)
  }
  return taken.sort((a, b) => a - b)[Math.floor(TURNS / 2)] ?? 0
}

const FILES = 1_000

/** Imports typical Markdown files: about 350 words, with headings, a list, a table and code. */
async function secondsToImport(blog: Blog): Promise<number> {
  const words = 'the wheel goes round and the spoke sings a little higher than before '.split(' ')
  const paragraph = (from: number) =>
    Array.from({ length: 60 }, (_, at) => words[(from + at * 7) % words.length]).join(' ')
  const batch: { name: string; text: string }[] = []
  const start = performance.now()
  for (let file = 0; file < FILES; file++) {
    const text = `---\ntitle: Imported ${file}\npublished: 2026-0${1 + (file % 9)}-11T09:30\ncategory: bicycles\nauthor: ines-marchetti\ntags: [wheels, tools]\n---\n\n${[0, 1, 2].map((part) => `## Part ${part}\n\n${paragraph(file + part)}\n\n- one\n- **two**\n\n${paragraph(part)}`).join('\n\n')}\n\n| a | b |\n|---|---|\n| 1 | 2 |\n\n\`\`\`js\nconst a = ${file}\n\`\`\`\n`
    batch.push({ name: `imported-${file}.md`, text })
  }
  const { results } = await importPosts(blog, batch)
  const refused = results.find((one) => one.outcome !== 'created')
  if (refused) throw new Error(JSON.stringify(refused))
  const seconds = (performance.now() - start) / 1000
  await blog.database.query("DELETE FROM post WHERE slug LIKE 'imported-%'")
  return seconds
}

/** @param url of the same database, without a statement timeout */
export async function contentFigures(blog: Blog, url: string): Promise<ContentFigure[]> {
  const figures: ContentFigure[] = [
    {
      what: `  ${FILES.toLocaleString('en-GB')} Markdown files imported`,
      milliseconds: (await secondsToImport(blog)) * 1000,
      goal: '≤ 10,000 ms',
    },
  ]
  await fill(url)
  for (const [what, filter] of FILTERS)
    figures.push({
      what: `  ${what}`,
      milliseconds: await median(() => listPosts(blog.database, filter)),
      goal: '≤ 300 ms',
    })
  const { site } = blog
  const query = site.queries.get('search-posts')
  for (const q of ['darning mushroom', 'glue', 'kettel', 'the wheel or the glue'])
    if (query)
      figures.push({
        what: `  readers’ search: ${q}`,
        milliseconds: await median(() =>
          runQuery(blog.pool, {
            name: query.name,
            meaning: query.meaning,
            compiled: query.compiled.reader,
            parameters: { q },
            page: { number: 1 },
          }),
        ),
        goal: '≤ 50 ms',
      })
  const slug = 'a-visible-darn-worth-showing-off'
  const page = () =>
    rehearse(
      blog,
      async ({ manager }) =>
        success(await manager.query('UPDATE post SET title = $1 WHERE slug = $2', ['Typed', slug])),
      (changed) => answer(changed, internalRequest(`/posts/${slug}`, { as: 'author' })),
    )
  figures.push({ what: '  preview of a post', milliseconds: await median(page), goal: '≤ 100 ms' })
  figures.push({
    what: '  appearances of a post',
    milliseconds: await median(() => appearancesOf(blog, slug)),
    goal: '',
  })
  return figures
}
