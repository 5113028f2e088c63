// For any writes in any order, a page with stored fragments equals the page without them.
import fc from 'fast-check'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { quiet, testBlog, type TestBlog } from '../testing/database.ts'
import { editPost } from '../testing/edits.ts'
import { sendComment, withoutTokens } from '../testing/comments.ts'
import { answer } from './answer.ts'
import { Blog } from './blog.ts'
import { internalRequest } from './request.ts'

let test: TestBlog
/** The same database and definition, without stored fragments. */
let fresh: Blog
let slugs: string[]
/** How often each field was changed. */
const saved = new Map<string, number>()

beforeAll(async () => {
  test = await testBlog()
  fresh = new Blog({ database: test.database, site: test.blog.site, log: quiet, fragments: 'off' })
  const rows = await test.database.query<{ slug: string }[]>(
    'SELECT slug FROM post ORDER BY published_at DESC LIMIT 14',
  )
  slugs = rows.map((row) => row.slug)
})
afterAll(() => test.close())

const get = (blog: Blog, target: string) =>
  answer(blog, internalRequest(target, { id: '00000000-0000-4000-8000-000000000000' }))

/** One change by an author or a reader, of the post with a number. */
type Step =
  { kind: 'edit'; post: number; from: RegExp; to: string } | { kind: 'comment'; post: number; text: string }

const post = fc.nat({ max: 13 })
const edit = (from: RegExp, to: fc.Arbitrary<string>) =>
  fc.record({ kind: fc.constant('edit' as const), post, from: fc.constant(from), to })
const step: fc.Arbitrary<Step> = fc.oneof(
  edit(
    /^title: .*$/m,
    fc.integer({ min: 1, max: 99 }).map((n) => `title: Renamed ${n}`),
  ),
  edit(
    /^slug: .*$/m,
    fc.integer({ min: 1, max: 999 }).map((n) => `slug: moved-${n}`),
  ),
  edit(
    /^category: .*$/m,
    fc.constantFrom('bicycles', 'textiles', 'woodwork').map((slug) => `category: ${slug}`),
  ),
  edit(
    /^published: .*$/m,
    fc.constantFrom('-1 days 08:00', '-40 days 08:00', '+9 days 08:00').map((at) => `published: ${at}`),
  ),
  edit(/^excerpt: .*$/m, fc.constantFrom('excerpt: Another opening.', 'excerpt: "A <b>third</b> one"')),
  edit(/^image: .*$/m, fc.constantFrom('image: sign.svg', 'image: zip-textiles-0.svg')),
  edit(/^author: .*$/m, fc.constantFrom('author: wen-adeyemi', 'author: marta-solheim')),
  fc.record({
    kind: fc.constant('comment' as const),
    post,
    text: fc.string({ minLength: 1, maxLength: 40 }).map((text) => `x${text}`),
  }),
)

async function apply(one: Step): Promise<void> {
  const slug = slugs[one.post] ?? ''
  if (one.kind === 'comment') {
    await sendComment(test.blog, slug, { name: 'R', text: one.text })
    return
  }
  const result = await editPost(test.blog, slug, (text) => text.replace(one.from, one.to))
  if (!result.ok) return
  slugs[one.post] = result.value.slug
  saved.set(one.from.source, (saved.get(one.from.source) ?? 0) + 1)
}

it('after every step, every page equals the one without stored fragments', { timeout: 120_000 }, async () => {
  let hits = 0
  await fc.assert(
    fc.asyncProperty(fc.array(step, { minLength: 1, maxLength: 8 }), async (steps) => {
      for (const one of steps) {
        await apply(one)
        const changed = `/posts/${slugs[one.post] ?? ''}`
        for (const target of [
          '/',
          '/posts',
          '/posts?page=2',
          '/category/bicycles',
          '/category/textiles',
          changed,
        ]) {
          const kept = await get(test.blog, target)
          hits += kept.fragments.filter((part) => part.outcome === 'hit').length
          const made = await get(fresh, target)
          expect([kept.status, withoutAges(kept.body)], `${target} after ${JSON.stringify(one)}`).toEqual([
            made.status,
            withoutAges(made.body),
          ])
        }
      }
    }),
    { numRuns: 45 },
  )
  // The test means something only if pages used stored fragments and every field was changed.
  expect(hits).toBeGreaterThan(1_000)
  expect(saved.size).toBe(7)
  expect(Math.min(...saved.values())).toBeGreaterThan(4)
})

/** Both pages are rendered at slightly different times. */
const withoutAges = (html: string) =>
  withoutTokens(html).replace(/just now|less than a minute ago|\d+ (?:second|minute)s? ago/g, 'now')
