// Whatever the definition, the rows, the changes and the readers: a page with stored fragments equals the page without.
// Random queries and templates; changes by the unit of work, by SQL of another program and by undoing; a second process
// that only reads, and shares copies with the first; forms; a definition that changes; scheduled posts that become due.
import fc from 'fast-check'
import { Client } from 'pg'
import { afterAll, beforeAll, expect, it } from 'vitest'
import type { DataSource } from 'typeorm'
import type { Change } from '../../core/caching/change.ts'
import { affected } from '../../core/caching/dependence.ts'
import { groupsChanged, groupsOf, LONGEST_GROUP, MOST_GROUPS } from '../../core/caching/groups.ts'
import { ProcessFragmentStore } from '../../core/caching/store.ts'
import { success } from '../../core/shapes/outcome.ts'
import { buildSite, type Site } from '../publish/site.ts'
import { openDatabase } from '../store/connection.ts'
import { newDatabase, quiet } from '../testing/database.ts'
import { undoLatest } from '../testing/edits.ts'
import { randomDefinition, SLUGS, TEXTS, TIMES, type RandomDefinition } from '../testing/random-definition.ts'
import { answer } from './answer.ts'
import { Blog, FRAGMENT_BYTES } from './blog.ts'
import { MemoryCopies } from '../shared-copies/memory-copies.ts'
import { Writing } from '../shared-copies/written.ts'
import { temporaryKey } from './secret.ts'
import { internalRequest } from './request.ts'

let database: DataSource
let outside: Client

/** In milliseconds. */
const LONGEST = 300_000
const RUNS = Number(process.env['ESQUINA_RUNS'] ?? 25)

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

const id = fc.integer({ min: 1, max: 8 })
const text = fc.constantFrom(...TEXTS).map(quoted)
const slug = fc.constantFrom(...SLUGS, 's6', 's7', 's8').map(quoted)
const time = fc.oneof(
  fc.constantFrom(...TIMES).map(quoted),
  fc.constantFrom('NULL', 'now()', "now() + interval '1 day'"),
)
const reference = fc.oneof(fc.constant('NULL'), fc.integer({ min: 1, max: 5 }).map(String))
const number = fc.integer({ min: 0, max: 3 }).map(String)
const flag = fc.constantFrom('true', 'false')
/** The columns that are changed, by the source and field that they are for queries. */
const COLUMNS: Readonly<
  Record<string, readonly [table: string, column: string, value: fc.Arbitrary<string>]>
> = {
  'posts.title': ['post', 'title', text],
  'posts.slug': ['post', 'slug', slug],
  'posts.excerpt': ['post', 'excerpt', text],
  'posts.html': ['post', 'html', text],
  'posts.search': ['post', 'html', text],
  'posts.writtenExcerpt': ['post', 'written_excerpt', text],
  'posts.publishedAt': ['post', 'published_at', time],
  'posts.updatedAt': ['post', 'updated_at', fc.constantFrom(...TIMES).map(quoted)],
  'posts.categoryId': ['post', 'category_id', reference],
  'posts.authorId': ['post', 'author_id', reference],
  'posts.imageId': ['post', 'image_id', reference],
  'posts.imageText': ['post', 'image_text', text],
  'posts.wordCount': ['post', 'word_count', number],
  'posts.commentsOpen': ['post', 'comments_open', flag],
  'categories.name': ['category', 'name', text],
  'categories.slug': ['category', 'slug', slug],
  'categories.position': ['category', 'position', number],
  'categories.parentId': ['category', 'parent_id', reference],
  'tags.name': ['tag', 'name', text],
  'tags.slug': ['tag', 'slug', slug],
  'authors.name': ['author', 'name', text],
  'authors.slug': ['author', 'slug', slug],
  'authors.about': ['author', 'about', text],
  'images.name': ['image', 'name', text],
  'images.width': ['image', 'width', fc.constantFrom('5', '6')],
  'images.height': ['image', 'height', fc.constantFrom('5', '6')],
  'comments.name': ['comment', 'name', text],
  'comments.text': ['comment', 'text', text],
  'comments.state': ['comment', 'state', fc.constantFrom("'shown'", "'spam'")],
  'comments.postId': ['comment', 'post_id', number],
  'comments.createdAt': ['comment', 'created_at', fc.constantFrom(...TIMES).map(quoted)],
  'pages.title': ['page', 'title', text],
  'pages.path': ['page', 'path', slug],
  'pages.slug': ['page', 'slug', slug],
  'pages.position': ['page', 'position', number],
  'pages.inNavigation': ['page', 'in_navigation', flag],
  'pages.parentId': ['page', 'parent_id', reference],
  'pages.updatedAt': ['page', 'updated_at', fc.constantFrom(...TIMES).map(quoted)],
}

/** Some rows of a table, since a change of one may not be shown. */
const rows = fc.uniqueArray(id, { minLength: 1, maxLength: 3 }).map((ids) => ids.join(', '))
const update = (of: string): fc.Arbitrary<string> => {
  const [table, column, value] = COLUMNS[of] ?? ['post', 'title', text]
  return fc
    .tuple(value, rows)
    .map(([set, ids]) => `UPDATE ${table} SET ${column} = ${set} WHERE id IN (${ids})`)
}

const link = fc.oneof(
  fc.tuple(id, reference).map(([post, tag]) => `INSERT INTO post_tag VALUES (${post}, ${tag})`),
  rows.map((ids) => `DELETE FROM post_tag WHERE post_id IN (${ids})`),
)
const TABLE_OF: Readonly<Record<string, string>> = {
  posts: 'post',
  comments: 'comment',
  tags: 'tag',
  authors: 'author',
  images: 'image',
  pages: 'page',
  categories: 'category',
}
const remove = fc
  .tuple(fc.constantFrom(...Object.values(TABLE_OF)), id)
  .map(([table, row]) => `DELETE FROM ${table} WHERE id = ${row}`)
const insert = fc.oneof(
  fc
    .tuple(text, slug, time, reference, number)
    .map(
      ([title, name, at, category, words]) =>
        `INSERT INTO post (title, slug, excerpt, body, html, pipeline, word_count, published_at, category_id, author_id) VALUES (${title}, ${name}, ${title}, 'x', ${title}, '1', ${words}, ${at}, ${category}, ${category})`,
    ),
  fc
    .tuple(id, text)
    .map(([post, words]) => `INSERT INTO comment (post_id, name, text) VALUES (${post}, ${words}, ${words})`),
  fc
    .tuple(fc.constantFrom('tag', 'author', 'category'), text, slug)
    .map(([table, name, one]) => `INSERT INTO ${table} (name, slug) VALUES (${name}, ${one})`),
  fc
    .tuple(text, slug, number)
    .map(
      ([title, one, at]) =>
        `INSERT INTO page (title, slug, path, body, html, pipeline, position, in_navigation) VALUES (${title}, ${one}, ${one}, 'x', 'x', '1', ${at}, true)`,
    ),
)

/**
 * SQL that changes rows: mostly what the queries read. Some of it is refused by a constraint, and then changes nothing.
 */
const sqlFor = (read: readonly string[]): fc.Arbitrary<string> => {
  const known = read.filter((one) => one in COLUMNS)
  return fc.oneof(
    { weight: known.length > 0 ? 9 : 0, arbitrary: fc.constantFrom(...known, 'posts.title').chain(update) },
    { weight: 3, arbitrary: fc.constantFrom(...Object.keys(COLUMNS)).chain(update) },
    { weight: read.includes('posts.tags') ? 4 : 1, arbitrary: link },
    { weight: 2, arbitrary: insert },
    { weight: 2, arbitrary: remove },
    { weight: 1, arbitrary: fc.constant('TRUNCATE comment') },
  )
}

/** Several statements are one transaction. */
const changeFor = (read: readonly string[]) =>
  fc.record({
    kind: fc.constantFrom('unit', 'unit', 'psql'),
    statements: fc.array(sqlFor(read), { minLength: 1, maxLength: 2 }),
  })
const due = fc.record({ kind: fc.constant('due'), post: id })
const redefine = fc.record({ kind: fc.constant('redefine') })
const undo = fc.record({ kind: fc.constant('undo') })
const stepsFor = ({ read }: RandomDefinition) =>
  fc.array(
    fc.oneof(
      { weight: 9, arbitrary: changeFor(read) },
      { weight: read.includes('posts.publishedAt') ? 3 : 1, arbitrary: due },
      { weight: 1, arbitrary: redefine },
      { weight: 2, arbitrary: undo },
    ),
    { minLength: 4, maxLength: 14 },
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
  if (one.kind === 'undo') {
    await undoLatest(blog)
    return
  }
  if (one.kind === 'due') {
    await outside.query("UPDATE post SET published_at = now() + interval '120 ms' WHERE id = $1", [one.post])
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

/** Readers with different remembered values. */
const READERS: Readonly<Record<string, string>>[] = [
  {},
  { commenter: remembered({ name: 'Vera <b>' }) },
  { commenter: remembered({ name: 'Idris', email: 'idris@example.org', site: 'https://example.org/?a&b' }) },
]
function remembered(values: object): string {
  return Buffer.from(JSON.stringify(values)).toString('base64url')
}
/** A token contains the time of the response. */
const TOKEN = /00000000-0000-4000-8000-000000000000\.[0-9a-z]{8}\.[\w-]{22}\.[\w-]{22}/gi

const get = async (blog: Blog, address: string, cookies: Readonly<Record<string, string>> = {}) => {
  const { status, body, headers, fragments, copy } = await answer(
    blog,
    internalRequest(address, { id: '00000000-0000-4000-8000-000000000000', cookies }),
  )
  return {
    status,
    body: status === 500 ? '' : body.replace(TOKEN, 'a token'),
    location: headers['location'],
    fragments,
    copy,
    // In upper case, too.
    tokens: body.match(TOKEN)?.length ?? 0,
  }
}

/** Records affected copies that a change does not purge by their groups. */
class GroupedStore extends ProcessFragmentStore {
  hits = 0
  readonly missed: string[] = []

  override purge(changes: readonly Change[], now: Date): ReturnType<ProcessFragmentStore['purge']> {
    for (const change of changes) {
      const named = new Set(groupsChanged(change))
      for (const [key, { dependence }] of this.entries()) {
        const why = affected(change, dependence, now)
        if (why === undefined) continue
        this.hits++
        const groups = groupsOf(dependence)
        expect(groups.length).toBeLessThanOrEqual(MOST_GROUPS)
        for (const one of groups) expect(one.length).toBeLessThanOrEqual(LONGEST_GROUP)
        if (!groups.some((one) => named.has(one)))
          this.missed.push(`${key}: ${why}: ${[...named].join()}: ${groups.join()}`)
      }
    }
    return super.purge(changes, now)
  }
}

it('every answer equals one for which nothing is kept', { timeout: LONGEST + 60_000 }, async () => {
  let hits = 0
  let pages = 0
  let reads = 0
  let valid = 0
  let served = 0
  let affectedCopies = 0
  let taken = 0
  let refused = 0
  let forms = 0
  const names = new Set<string>()
  await fc.assert(
    fc.asyncProperty(
      randomDefinition.chain((one) => fc.tuple(fc.constant(one), stepsFor(one))),
      randomDefinition,
      fc.array(target, { minLength: 2, maxLength: 4 }),
      async ([definition, steps], changed, targets) => {
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
        const store = new GroupedStore(FRAGMENT_BYTES)
        const cursorKey = temporaryKey()
        const sharedCopies = new MemoryCopies(new Writing(cursorKey), FRAGMENT_BYTES)
        const both = { database, site: site.value, log: quiet, cursorKey, sharedCopies }
        const blog = new Blog({ ...both, fragments: store })
        const reader = new Blog(both)
        const ends = [await blog.follow(), await reader.follow()]
        try {
          const compare = async (after: string) => {
            for (const address of targets)
              for (const one of [blog, reader]) {
                const cookies = READERS[reads % READERS.length]
                const kept = await get(one, address, cookies)
                const plain = await get(one.withoutFragments(), address, cookies)
                reads++
                forms += Number(kept.tokens > 0 && kept.copy === 'hit')
                hits += kept.fragments.filter((part) => part.outcome === 'hit').length
                pages += Number(kept.copy === 'hit')
                // Then it can only take shared copies.
                if (one === reader && reads % 3 === 0) one.fragments.clear('for the next comparison')
                served += Number(kept.status === 200)
                expect({ ...kept, fragments: [], copy: '' }, `${address} after ${after}`).toEqual({
                  ...plain,
                  fragments: [],
                  copy: '',
                })
              }
          }
          await compare('nothing')
          for (const one of steps) {
            await apply(blog, second.ok ? second.value : site.value, one)
            reader.replaceSite(blog.site)
            // What the product writes is acknowledged once both have seen it. Other programs do not wait.
            if (one.kind !== 'unit' && one.kind !== 'undo')
              await Promise.all([blog.catchUp(), reader.catchUp()])
            if (one.kind === 'due') {
              // Copies are made just before the post is due.
              for (const address of targets)
                await Promise.all([blog, reader].map((either) => get(either, address)))
              await new Promise((resolve) => setTimeout(resolve, 140))
            }
            await compare(JSON.stringify(one))
            expect(store.missed).toEqual([])
          }
          affectedCopies += store.hits
          taken += (blog.shared?.counts.taken ?? 0) + (reader.shared?.counts.taken ?? 0)
          refused += (blog.shared?.counts.refused ?? 0) + (reader.shared?.counts.refused ?? 0)
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
  expect([...names].sort()).toEqual(['card', 'f', 'g', 'page a', 'page b'])
  expect(served / reads).toBeGreaterThan(0.4)
  expect(taken).toBeGreaterThan(RUNS)
  // Copies of pages with a form.
  expect(forms).toBeGreaterThan(RUNS / 5)
  expect(refused).toBeGreaterThan(0)
  expect(affectedCopies).toBeGreaterThan(RUNS)
  expect(hits / reads).toBeGreaterThan(0.2)
  expect(pages / reads).toBeGreaterThan(0.3)
})
