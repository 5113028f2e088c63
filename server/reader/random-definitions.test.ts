// Whatever the definition, the rows, the changes and the readers: a page with stored fragments equals the page without.
// Random queries and templates; changes by the unit of work, by SQL of another program and by restoring; a second process
// that only reads; a definition that changes; scheduled posts that become due.
import fc from 'fast-check'
import { Client } from 'pg'
import { afterAll, beforeAll, expect, it } from 'vitest'
import type { DataSource } from 'typeorm'
import { success } from '../../core/shapes/outcome.ts'
import { buildSite, type Site } from '../publish/site.ts'
import { openDatabase } from '../store/connection.ts'
import { newDatabase, quiet } from '../testing/database.ts'
import { randomDefinition, SLUGS, TEXTS, TIMES } from '../testing/random-definition.ts'
import { answer } from './answer.ts'
import { Blog } from './blog.ts'
import { internalRequest } from './request.ts'

let database: DataSource
let outside: Client

/** In milliseconds. */
const LONGEST = 300_000
const RUNS = Number(process.env['ESQUINA_RUNS'] ?? 40)

beforeAll(async () => {
  const url = await newDatabase('empty')
  database = await openDatabase(url, { longest: 30_000 })
  outside = new Client({ connectionString: url })
  await outside.connect()
})
afterAll(async () => {
  await outside.end()
  await database.destroy()
})

const TABLES = 'post_tag, comment, former_slug, post, page, category, tag, author, image'
const quoted = (text: string) => `'${text.replaceAll("'", "''")}'`

async function fill(): Promise<void> {
  await outside.query(`TRUNCATE ${TABLES} RESTART IDENTITY CASCADE`)
  for (const [index, slug] of SLUGS.slice(0, 4).entries()) {
    const parent = index % 2 === 0 ? 'NULL' : String(index)
    await outside.query(
      `INSERT INTO category (name, slug, parent_id, position) VALUES (${quoted(TEXTS[index] ?? '')}, '${slug}', ${parent}, ${index})`,
    )
    await outside.query(`INSERT INTO tag (name, slug) VALUES (${quoted(TEXTS[index] ?? '')}, '${slug}')`)
    await outside.query(
      `INSERT INTO author (name, slug) VALUES (${quoted(TEXTS[3 - index] ?? '')}, '${slug}')`,
    )
    await outside.query(
      `INSERT INTO image (name, type, width, height, bytes, sha256) VALUES ('i${index}.svg', 'image/svg+xml', 10, ${index + 1}, '\\x00', 'h${index}')`,
    )
  }
  for (let n = 1; n <= 7; n++) {
    const published =
      n === 6 ? 'NULL' : n === 7 ? "now() + interval '2 days'" : quoted(TIMES[n % TIMES.length] ?? '')
    await outside.query(
      `INSERT INTO post (title, slug, excerpt, body, html, pipeline, word_count, category_id, author_id, image_id, published_at)
       VALUES (${quoted(TEXTS[n % 5] ?? '')}, 's${n}', ${quoted(TEXTS[(n + 1) % 5] ?? '')}, 'x', '<p>${TEXTS[(n * 2) % 5] ?? ''}</p>', '1', ${n % 3}, ${(n % 4) + 1}, ${(n % 3) + 1}, ${(n % 2) + 1}, ${published})`,
    )
    await outside.query(`INSERT INTO post_tag VALUES (${n}, ${(n % 4) + 1}), (${n}, ${((n + 1) % 4) + 1})`)
    await outside.query(
      `INSERT INTO comment (post_id, name, text, state) VALUES (${n}, 'R', ${quoted(TEXTS[n % 5] ?? '')}, '${n % 3 === 0 ? 'waiting' : 'shown'}')`,
    )
    if (n < 5)
      await outside.query(
        `INSERT INTO page (title, slug, path, parent_id, body, html, pipeline, position, in_navigation)
         VALUES (${quoted(TEXTS[n] ?? '')}, 's${n}', 's${n}', NULL, 'x', '<p>x</p>', '1', ${n}, ${n % 2 === 0})`,
      )
  }
}

/** SQL that changes rows. Some of it is refused by a constraint, and then changes nothing. */
const id = fc.integer({ min: 1, max: 8 })
const text = fc.constantFrom(...TEXTS).map(quoted)
const slug = fc.constantFrom(...SLUGS, 's6', 's7', 's8').map(quoted)
const time = fc.oneof(
  fc.constantFrom(...TIMES).map(quoted),
  fc.constantFrom('NULL', 'now()', "now() + interval '1 day'"),
)
const reference = fc.oneof(fc.constant('NULL'), fc.integer({ min: 1, max: 5 }).map(String))
const update = (table: string, columns: Record<string, fc.Arbitrary<string>>) =>
  fc
    .tuple(
      fc
        .constantFrom(...Object.entries(columns))
        .chain(([name, value]) => value.map((one) => `${name} = ${one}`)),
      id,
    )
    .map(([set, row]) => `UPDATE ${table} SET ${set} WHERE id = ${row}`)
const number = fc.integer({ min: 0, max: 3 }).map(String)
const flag = fc.constantFrom('true', 'false')
const sql: fc.Arbitrary<string> = fc.oneof(
  {
    weight: 6,
    arbitrary: update('post', {
      title: text,
      slug,
      excerpt: text,
      html: text.map((one) => `${one}`),
      published_at: time,
      category_id: reference,
      author_id: reference,
      image_id: reference,
      image_text: text,
      word_count: number,
      comments_open: flag,
      updated_at: fc.constantFrom(...TIMES).map(quoted),
      written_excerpt: text,
    }),
  },
  { weight: 2, arbitrary: update('category', { name: text, slug, position: number, parent_id: reference }) },
  update('tag', { name: text, slug }),
  update('author', { name: text, slug, about: text }),
  update('image', { name: text, width: fc.constantFrom('5', '6'), height: fc.constantFrom('5', '6') }),
  update('comment', {
    name: text,
    text,
    state: fc.constantFrom("'shown'", "'spam'"),
    post_id: number,
    created_at: fc.constantFrom(...TIMES).map(quoted),
  }),
  update('page', {
    title: text,
    path: slug,
    position: number,
    in_navigation: flag,
    parent_id: reference,
    updated_at: fc.constantFrom(...TIMES).map(quoted),
  }),
  fc.tuple(id, reference).map(([post, tag]) => `INSERT INTO post_tag VALUES (${post}, ${tag})`),
  id.map((post) => `DELETE FROM post_tag WHERE post_id = ${post}`),
  fc
    .tuple(text, slug, time, reference)
    .map(
      ([title, name, at, category]) =>
        `INSERT INTO post (title, slug, excerpt, body, html, pipeline, word_count, published_at, category_id) VALUES (${title}, ${name}, ${title}, 'x', ${title}, '1', 1, ${at}, ${category})`,
    ),
  fc
    .tuple(id, text)
    .map(([post, words]) => `INSERT INTO comment (post_id, name, text) VALUES (${post}, ${words}, ${words})`),
  fc.tuple(text, slug).map(([name, one]) => `INSERT INTO tag (name, slug) VALUES (${name}, ${one})`),
  fc
    .tuple(fc.constantFrom('post', 'comment', 'tag', 'author', 'image', 'page', 'category'), id)
    .map(([table, row]) => `DELETE FROM ${table} WHERE id = ${row}`),
  fc.constant('TRUNCATE comment'),
)

/** Several statements are one transaction. */
const change = fc.record({
  kind: fc.constantFrom('unit', 'unit', 'psql'),
  statements: fc.array(sql, { minLength: 1, maxLength: 3 }),
})
const due = fc.record({ kind: fc.constant('due'), post: id })
const redefine = fc.record({ kind: fc.constant('redefine') })
const step = fc.oneof(
  { weight: 8, arbitrary: change },
  { weight: 1, arbitrary: due },
  { weight: 1, arbitrary: redefine },
)
type Step = { kind: string; statements?: string[]; post?: number }

const target = fc
  .tuple(
    fc.constantFrom('a', 'b'),
    fc.constantFrom(...SLUGS.slice(0, 3), ...TEXTS.slice(0, 1)),
    fc.constantFrom(
      '',
      '',
      '?q=s2',
      '?q=lamp',
      '?page=2',
      '?page=2&utm_source=x',
      '?utm_source=y',
      '?q=s1&page=1',
    ),
  )
  .map(([name, p, query]) => `/${name}/${encodeURIComponent(p)}${query}`)

async function apply(blog: Blog, other: Site, one: Step): Promise<void> {
  if (one.kind === 'redefine') {
    blog.replaceSite(blog.site === other ? blog.site : other)
    return
  }
  if (one.kind === 'due') {
    await outside.query("UPDATE post SET published_at = now() + interval '40 ms' WHERE id = $1", [one.post])
    // The page is asked for before and after the post is due.
    return
  }
  const run = async (query: (text: string) => Promise<unknown>) => {
    for (const statement of one.statements ?? []) await query(statement)
  }
  // What a constraint refuses changes nothing.
  if (one.kind === 'unit')
    await blog.store
      .write(async ({ manager }) => {
        await run((text) => manager.query(text))
        return success(null)
      })
      .catch(() => undefined)
  else {
    await outside.query('BEGIN')
    const failed = await run((text) => outside.query(text)).then(
      () => false,
      () => true,
    )
    await outside.query(failed ? 'ROLLBACK' : 'COMMIT')
  }
}

const get = async (blog: Blog, address: string) => {
  const { status, body, headers, fragments } = await answer(
    blog,
    internalRequest(address, { id: '00000000-0000-4000-8000-000000000000' }),
  )
  return { status, body: status === 500 ? '' : body, location: headers['location'], fragments }
}

it('every answer equals one for which nothing is kept', { timeout: LONGEST + 60_000 }, async () => {
  let hits = 0
  let reads = 0
  let valid = 0
  let served = 0
  const names = new Set<string>()
  await fc.assert(
    fc.asyncProperty(
      randomDefinition,
      randomDefinition,
      fc.array(step, { minLength: 4, maxLength: 14 }),
      fc.array(target, { minLength: 2, maxLength: 4 }),
      async (definition, changed, steps, targets) => {
        const site = buildSite(database, definition.documents)
        // The other definition has some of the documents of the first.
        const mixed = new Map([
          ...definition.documents,
          ...[...changed.documents].filter(([path]) => path.length % 3 === 0),
        ])
        const second = buildSite(database, mixed)
        fc.pre(site.ok)
        if (!site.ok) return
        valid++
        await fill()
        const blog = new Blog({ database, site: site.value, log: quiet })
        const reader = new Blog({ database, site: site.value, log: quiet })
        const ends = [await blog.follow(), await reader.follow()]
        try {
          const compare = async (after: string) => {
            for (const address of targets)
              for (const one of [blog, reader]) {
                const kept = await get(one, address)
                const plain = await get(one.withoutFragments(), address)
                reads++
                hits += kept.fragments.filter((part) => part.outcome === 'hit').length
                served += Number(kept.status === 200)
                expect({ ...kept, fragments: [] }, `${address} after ${after}`).toEqual({
                  ...plain,
                  fragments: [],
                })
              }
          }
          await compare('nothing')
          for (const one of steps) {
            await apply(blog, second.ok ? second.value : site.value, one)
            reader.replaceSite(blog.site)
            await Promise.all([blog.catchUp(), reader.catchUp()])
            await compare(JSON.stringify(one)).catch(async (error: unknown) => {
              // A post may have become due between the two renderings that are compared.
              if (one.kind !== 'due') throw error
            })
            if (one.kind === 'due') {
              await new Promise((resolve) => setTimeout(resolve, 60))
              await compare(JSON.stringify(one))
            }
          }
          for (const [, { name }] of blog.fragments.entries()) names.add(name)
        } finally {
          await Promise.all(ends.map((end) => end()))
        }
      },
    ),
    {
      numRuns: RUNS,
      maxSkipsPerRun: 1_000,
      // A failure is shrunk for some minutes at most.
      interruptAfterTimeLimit: LONGEST,
      endOnFailure: process.env['ESQUINA_SHRINK'] === 'no',
    },
  )
  // The test means something only if pages were served and copies were used.
  expect(valid).toBeGreaterThanOrEqual(RUNS)
  expect([...names].sort()).toEqual(['card', 'f', 'g'])
  expect(served / reads).toBeGreaterThan(0.4)
  expect(hits / reads).toBeGreaterThan(0.5)
})
