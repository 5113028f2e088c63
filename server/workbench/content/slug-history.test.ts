// The history of slugs, whichever way a slug is taken: it never holds a current slug, and all former ones redirect.
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { importPosts } from '../../author/posts/import-posts.ts'
import { renameSlug } from '../../testing/edits.ts'
import { testWorkbench, type TestWorkbench } from '../../testing/workbench.ts'

let test: TestWorkbench
beforeAll(async () => (test = await testWorkbench()))
afterAll(() => test.close())

type Kind = 'post' | 'page' | 'category' | 'tag' | 'author'

/** Former slugs that a row has at present. */
const contradictions = () =>
  test.database.query<unknown[]>(
    `SELECT former.kind, former.slug FROM former_slug former WHERE CASE former.kind
       WHEN 'post' THEN EXISTS (SELECT FROM post WHERE slug = former.slug)
       WHEN 'page' THEN EXISTS (SELECT FROM page WHERE path = former.slug)
       WHEN 'category' THEN EXISTS (SELECT FROM category WHERE slug = former.slug)
       WHEN 'tag' THEN EXISTS (SELECT FROM tag WHERE slug = former.slug)
       ELSE EXISTS (SELECT FROM author WHERE slug = former.slug) END`,
  )
const former = async (kind: Kind) =>
  (
    await test.database.query<{ slug: string }[]>(
      'SELECT slug FROM former_slug WHERE kind = $1 ORDER BY slug',
      [kind],
    )
  ).map((one) => one.slug)

const ok = async <T>(called: Promise<{ status: number; answer: T }>): Promise<T> => {
  const { status, answer } = await called
  expect([status, answer]).toEqual([200, answer])
  return answer
}
const post = (slug: string, published: string | null = 'now') =>
  ok(
    test.api<{ slug: string; version: number }>('POST', '/api/posts', {
      matter: { title: slug, slug, ...(published === null ? {} : { published }) },
      body: slug,
    }),
  )
const term = (kind: Kind, slug: string) =>
  ok(test.api<{ slug: string; version: number }>('POST', '/api/terms', { kind, name: slug, slug }))
const page = (slug: string) =>
  ok(
    test.api<{ path: string; version: number }>('POST', '/api/pages', {
      title: slug,
      slug,
      body: slug,
      inNavigation: false,
      parent: null,
    }),
  )
const savePost = (slug: string, version: number, matter: object) =>
  ok(test.api<{ version: number }>('PUT', `/api/post?slug=${slug}`, { version, matter, body: 'text' }))
const restore = (deleted: number) => ok(test.api('POST', '/api/deleted/restore', { deleted }))

let count = 0
/** Makes a slug a former one: a public row had it and was renamed. */
async function givenUp(kind: Kind): Promise<string> {
  const slug = `given-up-${++count}`
  if (kind === 'post') await post(slug)
  else if (kind === 'page') await page(slug)
  else await term(kind, slug)
  expect(await renameSlug(test.blog, kind, slug, `${slug}-later`)).toMatchObject({ ok: true })
  expect(await former(kind)).toContain(slug)
  return slug
}

/** Every way in which a row can take a slug. */
const TAKEN: [string, Kind, (slug: string) => Promise<unknown>][] = [
  ['a new post', 'post', (slug) => post(slug)],
  ['a new draft', 'post', (slug) => post(slug, null)],
  [
    'a saved draft',
    'post',
    async (slug) => {
      const { version } = await post(`${slug}-draft`, null)
      await savePost(`${slug}-draft`, version, { title: 'Draft', slug })
    },
  ],
  [
    'a saved post',
    'post',
    async (slug) => {
      const { version } = await post(`${slug}-other`)
      await savePost(`${slug}-other`, version, { title: 'Post', slug, published: 'now' })
    },
  ],
  [
    'an imported post',
    'post',
    (slug) =>
      importPosts(test.blog, [
        { name: `${slug}.md`, text: `---\ntitle: Imported\npublished: now\n---\n\nText.` },
      ]),
  ],
  [
    'a draft that is renamed in Routes',
    'post',
    async (slug) => {
      await post(`${slug}-draft`, null)
      await renameSlug(test.blog, 'post', `${slug}-draft`, slug)
    },
  ],
  [
    'a restored post',
    'post',
    async (slug) => {
      // The slug is free once it is deleted, another post has it for a while, and then the first one is restored.
      await test.database.query("DELETE FROM former_slug WHERE kind = 'post' AND slug = $1", [slug])
      const { version } = await post(slug)
      const { results } = await ok(
        test.api<{ results: { deleted: number }[] }>('POST', '/api/posts/delete', {
          posts: [{ slug, version }],
        }),
      )
      await post(slug)
      await renameSlug(test.blog, 'post', slug, `${slug}-again`)
      await restore(results[0]?.deleted ?? 0)
    },
  ],
  ...(['category', 'tag', 'author'] as const).flatMap(
    (kind): [string, Kind, (slug: string) => Promise<unknown>][] => [
      [`a new ${kind}`, kind, (slug) => term(kind, slug)],
      [
        `a saved ${kind}`,
        kind,
        async (slug) => {
          const { version } = await term(kind, `${slug}-other`)
          await ok(
            test.api('PUT', `/api/term?kind=${kind}&slug=${slug}-other`, { version, name: 'Saved', slug }),
          )
        },
      ],
      [
        `a restored ${kind}`,
        kind,
        async (slug) => {
          await test.database.query('DELETE FROM former_slug WHERE kind = $1 AND slug = $2', [kind, slug])
          const { version } = await term(kind, slug)
          const { deleted } = await ok(
            test.api<{ deleted: number }>('POST', `/api/term/delete?kind=${kind}&slug=${slug}`, { version }),
          )
          await term(kind, slug)
          await renameSlug(test.blog, kind, slug, `${slug}-again`)
          await restore(deleted)
        },
      ],
    ],
  ),
  ['a new page', 'page', (slug) => page(slug)],
  [
    'a moved page',
    'page',
    async (slug) => {
      const { version } = await page(`${slug}-other`)
      await ok(
        test.api('POST', `/api/page/move?path=${slug}-other`, { version, parent: null, before: null, slug }),
      )
    },
  ],
  [
    'a restored page',
    'page',
    async (slug) => {
      await test.database.query("DELETE FROM former_slug WHERE kind = 'page' AND slug = $1", [slug])
      const { version } = await page(slug)
      const { deleted } = await ok(
        test.api<{ deleted: number }>('POST', `/api/page/delete?path=${slug}`, { version }),
      )
      await page(slug)
      await renameSlug(test.blog, 'page', slug, `${slug}-again`)
      await restore(deleted)
    },
  ],
]

describe('a former slug that is taken again', () => {
  it.each(TAKEN)('by %s is not a former one any more', async (_, kind, take) => {
    const slug = await givenUp(kind)
    await take(slug)
    expect(await former(kind)).not.toContain(slug)
    expect(await contradictions()).toEqual([])
  })
})

/** Every way in which a public row gives up a slug, with the slug that it has afterwards. */
const GIVEN_UP: [string, Kind, (slug: string) => Promise<string>][] = [
  [
    'a saved post',
    'post',
    async (slug) => {
      const { version } = await post(slug)
      await savePost(slug, version, { title: 'Renamed', slug: `${slug}-2`, published: 'now' })
      return `/posts/${slug}-2`
    },
  ],
  [
    'a post in Routes',
    'post',
    async (slug) => {
      await post(slug)
      await renameSlug(test.blog, 'post', slug, `${slug}-2`)
      return `/posts/${slug}-2`
    },
  ],
  [
    'a saved category',
    'category',
    async (slug) => {
      const { version } = await term('category', slug)
      await ok(
        test.api('PUT', `/api/term?kind=category&slug=${slug}`, {
          version,
          name: 'Saved',
          slug: `${slug}-2`,
        }),
      )
      return `/category/${slug}-2`
    },
  ],
  [
    'a merged category',
    'category',
    async (slug) => {
      const { version } = await term('category', slug)
      await ok(test.api('POST', `/api/term/delete?kind=category&slug=${slug}`, { version, into: 'lamps' }))
      return '/category/lamps'
    },
  ],
  [
    'a category that was renamed and then merged',
    'category',
    async (slug) => {
      await term('category', slug)
      await renameSlug(test.blog, 'category', slug, `${slug}-2`)
      const { answer } = await test.api<{ slug: string; version: number }[]>(
        'GET',
        '/api/terms?kind=category',
      )
      const version = answer.find((one) => one.slug === `${slug}-2`)?.version ?? 0
      await ok(test.api('POST', `/api/term/delete?kind=category&slug=${slug}-2`, { version, into: 'lamps' }))
      return '/category/lamps'
    },
  ],
  [
    'a moved page',
    'page',
    async (slug) => {
      const { version } = await page(slug)
      await ok(test.api('POST', `/api/page/move?path=${slug}`, { version, parent: 'about', before: null }))
      return `/about/${slug}`
    },
  ],
]
const ADDRESS: Readonly<Record<string, string>> = { post: '/posts/', category: '/category/', page: '/' }

describe('a slug that is given up', () => {
  it.each(GIVEN_UP)('by %s redirects to the new address', async (_, kind, giveUp) => {
    const slug = `public-${++count}`
    const address = await giveUp(slug)
    const { status, to } = await test.read(`${ADDRESS[kind] ?? ''}${slug}`)
    expect([status, to]).toEqual([301, address])
    expect(await contradictions()).toEqual([])
  })

  it('by a draft does not redirect, because readers never had it', async () => {
    const slug = `draft-${++count}`
    const { version } = await post(slug, null)
    await savePost(slug, version, { title: 'Draft', slug: `${slug}-2` })
    await post(`${slug}-b`, null)
    await renameSlug(test.blog, 'post', `${slug}-b`, `${slug}-c`)
    const known = await former('post')
    expect(known.filter((one) => one.startsWith(slug))).toEqual([])
  })

  it('by a draft that is published later does not redirect either', async () => {
    const slug = `draft-${++count}`
    const { version } = await post(slug, null)
    await savePost(slug, version, { title: 'Draft', slug: `${slug}-2`, published: 'now' })
    expect((await test.read(`/posts/${slug}`)).status).toBe(404)
  })
})
