// Categories, tags and authors over the API, and what readers see of them.
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { testWorkbench, type TestWorkbench } from '../../testing/workbench.ts'
import type { Term } from '../../../contract/terms.ts'

let test: TestWorkbench
beforeAll(async () => (test = await testWorkbench()))
afterAll(() => test.close())

const terms = async (kind: string) => (await test.api<Term[]>('GET', `/api/terms?kind=${kind}`)).answer
const term = async (kind: string, slug: string): Promise<Term> => {
  const found = (await terms(kind)).find((one) => one.slug === slug)
  if (!found) throw new Error(`no ${kind} ${slug}`)
  return found
}
const slugs = async (kind: string) => (await terms(kind)).map((one) => one.slug)
const everything = async () =>
  await test.database.query<unknown[]>(
    `SELECT (SELECT jsonb_agg(category.* ORDER BY id) FROM (SELECT id, name, slug, parent_id, position FROM category) category) AS categories,
       (SELECT jsonb_agg(tag.* ORDER BY id) FROM (SELECT id, name, slug FROM tag) tag) AS tags,
       (SELECT jsonb_agg(author.* ORDER BY id) FROM (SELECT id, name, slug, about FROM author) author) AS authors,
       (SELECT jsonb_agg(link.* ORDER BY post_id, tag_id) FROM post_tag link) AS links,
       (SELECT jsonb_agg(post.* ORDER BY id) FROM (SELECT id, category_id, author_id FROM post) post) AS posts,
       (SELECT jsonb_agg(jsonb_build_array(kind, slug, category_id, tag_id, author_id) ORDER BY kind, slug) FROM former_slug) AS former`,
  )
const remove = (kind: string, { slug, version }: Term, more: object = {}) =>
  test.api<{ deleted: number; posts: number; code: string }>(
    'POST',
    `/api/term/delete?kind=${kind}&slug=${slug}`,
    { version, ...more },
  )
const restore = (deleted: number) => test.api('POST', '/api/deleted/restore', { deleted })

describe('a list', () => {
  it('counts posts by state, and agrees with what readers see', async () => {
    for (const one of await terms('category')) {
      const page = (await test.read(`/category/${one.slug}`)).text
      const said = /(\d+) (?:post|of)/.exec(page)
      expect(one.address).toBe(`/category/${one.slug}`)
      expect(one.posts.published, one.slug).toBeGreaterThan(0)
      expect(said).toBeTruthy()
    }
    const [row] = await test.database.query<{ drafts: number; scheduled: number }[]>(
      `SELECT count(*) FILTER (WHERE published_at IS NULL)::int AS drafts, count(*) FILTER (WHERE published_at > now())::int AS scheduled
       FROM post WHERE author_id IS NOT NULL`,
    )
    const authors = await terms('author')
    expect(authors.reduce((sum, one) => sum + one.posts.draft, 0)).toBe(row?.drafts)
    expect(authors.reduce((sum, one) => sum + one.posts.scheduled, 0)).toBe(row?.scheduled)
  })
})

describe('creating and changing', () => {
  it('derives a free slug from the name', async () => {
    const first = await test.api('POST', '/api/terms', { kind: 'tag', name: 'Čisté nástroje' })
    expect([first.status, first.answer['slug'], first.etag]).toEqual([200, 'ciste-nastroje', '"1"'])
    const second = await test.api('POST', '/api/terms', { kind: 'tag', name: 'Ciste nastroje!' })
    expect(second.answer['slug']).toBe('ciste-nastroje-2')
    for (const slug of ['ciste-nastroje', 'ciste-nastroje-2'])
      expect((await remove('tag', await term('tag', slug))).status).toBe(200)
  })
  it.each([
    [{ kind: 'tag', name: '!!!' }, 'slug-not-derivable'],
    [{ kind: 'tag', name: '   ' }, 'name-empty'],
    [{ kind: 'category', name: 'Bikes', slug: 'bicycles' }, 'slug-taken'],
    [{ kind: 'category', name: 'Bikes', slug: 'Bikes' }, 'slug-character'],
    [{ kind: 'category', name: 'Bikes', parent: 'nowhere' }, 'tree-parent-unknown'],
  ])('%j is refused with its place', async (body, code) => {
    const before = await everything()
    const { status, answer } = await test.api<{ problems: { code: string; path: string }[] }>(
      'POST',
      '/api/terms',
      body,
    )
    expect(status).toBe(422)
    expect(answer.problems[0]?.code).toBe(code)
    expect(answer.problems[0]?.path).toMatch(/^\/(name|slug|parent)$/)
    expect(await everything()).toEqual(before)
  })
  it('shows a new name on every page at once, and the former address redirects', async () => {
    const before = await test.read('/posts')
    expect(before.text).toContain('Woodwork')
    const { version } = await term('category', 'woodwork')
    const saved = await test.api(
      'PUT',
      '/api/term?kind=category&slug=woodwork',
      { name: 'Timber & <b>glue</b>', slug: 'timber' },
      { 'if-match': `"${version}"` },
    )
    expect([saved.status, saved.etag]).toEqual([200, `"${version + 1}"`])
    for (const path of ['/', '/posts', '/category/timber']) {
      const { text } = await test.read(path)
      expect(text, path).toContain('Timber &amp; &lt;b&gt;glue&lt;/b&gt;')
      expect(text, path).not.toContain('Woodwork</a>')
    }
    expect(await test.read('/category/woodwork')).toMatchObject({ status: 301, to: '/category/timber' })
    expect((await term('category', 'timber')).former).toEqual(['woodwork'])
    await test.api('PUT', '/api/term?kind=category&slug=timber', {
      version: version + 1,
      name: 'Woodwork',
      slug: 'woodwork',
    })
    expect((await test.read('/category/woodwork')).status).toBe(200)
  })
  it('the second of two concurrent saves is a conflict', async () => {
    const { version } = await term('author', 'wen-adeyemi')
    const change = (about: string) =>
      test.api('PUT', '/api/term?kind=author&slug=wen-adeyemi', { version, name: 'Wen Adeyemi', about })
    const [one, two] = await Promise.all([change('one'), change('two')])
    expect([one.status, two.status].sort()).toEqual([200, 409])
    const stale = await test.api(
      'PUT',
      '/api/term?kind=author&slug=wen-adeyemi',
      { name: 'Wen' },
      { 'if-match': `"${version}"` },
    )
    expect(stale.status).toBe(412)
    expect((await test.api('PUT', '/api/term?kind=author&slug=wen-adeyemi', { name: 'Wen' })).status).toBe(
      428,
    )
  })
})

describe('a tree of categories', () => {
  const place = async (slug: string, parent: string | null, before: string | null) => {
    const { version } = await term('category', slug)
    return await test.api<{ problems: { code: string }[] }>('POST', `/api/category/move?slug=${slug}`, {
      version,
      parent,
      before,
    })
  }
  it('is sorted, and the list of categories on pages follows', async () => {
    const first = await slugs('category')
    expect((await place('open-days', null, 'bicycles')).status).toBe(200)
    expect(await slugs('category')).toEqual(['open-days', ...first.filter((one) => one !== 'open-days')])
    const home = (await test.read('/')).text
    // The list of categories comes after the cards, which have categories, too.
    expect(home.lastIndexOf('/category/open-days"')).toBeLessThan(home.lastIndexOf('/category/bicycles"'))
    expect((await place('open-days', null, null)).status).toBe(200)
    expect(await slugs('category')).toEqual(first)
  })
  it('nests categories, and never has a cycle', async () => {
    expect((await place('clocks-and-toys', 'electrical', null)).status).toBe(200)
    expect((await term('category', 'clocks-and-toys')).depth).toBe(1)
    for (const inner of ['electrical', 'clocks-and-toys']) {
      const refused = await place('electrical', inner, null)
      expect(refused.answer.problems[0]?.code).toBe('tree-cycle')
    }
    expect((await place('clocks-and-toys', null, 'open-days')).status).toBe(200)
  })
  it('is never saved with a cycle, by the form either', async () => {
    for (const parent of ['lamps', 'electrical']) {
      const { name, version } = await term('category', 'electrical')
      const refused = await test.api<{ code: string }>('PUT', '/api/term?kind=category&slug=electrical', {
        version,
        name,
        slug: 'electrical',
        parent,
      })
      expect([refused.status, refused.answer.code]).toEqual([422, 'tree-cycle'])
    }
  })
  it('has no cycle after concurrent moves: the database refuses the second one', async () => {
    const cycles = `WITH RECURSIVE below AS (
        SELECT id AS start, parent_id AS at, 1 AS depth FROM category
        UNION ALL SELECT start, category.parent_id, depth + 1 FROM below JOIN category ON category.id = at WHERE depth < 50)
      SELECT start FROM below WHERE start = at`
    for (let round = 0; round < 20; round++) {
      const results = await Promise.all([
        place('textiles', 'woodwork', null),
        place('woodwork', 'textiles', null),
      ])
      expect(await test.database.query(cycles)).toEqual([])
      expect(results.map((one) => one.status).filter((status) => status === 200).length).toBeLessThanOrEqual(
        1,
      )
      for (const { status, answer } of results)
        if (status !== 200) expect(answer.problems[0]?.code).toBe('tree-cycle')
      await place('textiles', null, null)
      await place('woodwork', null, null)
    }
    for (const slug of ['textiles', 'woodwork']) await place(slug, null, 'clocks-and-toys')
    await expect(
      test.database.query("UPDATE category SET parent_id = id WHERE slug = 'lamps'"),
    ).rejects.toThrow(/cycle|check/)
  })
  it('refuses an outdated order', async () => {
    const refused = await place('open-days', null, 'gone')
    expect(refused.answer.problems[0]?.code).toBe('tree-order-changed')
  })
})

describe('deleting', () => {
  it('refuses to delete a category in use without confirmation', async () => {
    const before = await everything()
    const refused = await remove('category', await term('category', 'textiles'))
    expect([refused.status, refused.answer.code]).toEqual([409, 'term-in-use'])
    expect(await everything()).toEqual(before)
  })
  it.each(['category', 'tag', 'author'])(
    'a %s in use is deleted and restored with its posts',
    async (kind) => {
      const [, found] = await terms(kind)
      if (!found) throw new Error('none')
      const before = await everything()
      const gone = await remove(kind, found, { evenIfUsed: true })
      expect(gone.status).toBe(200)
      expect(gone.answer.posts).toBe(found.posts.published + found.posts.scheduled + found.posts.draft)
      expect(await slugs(kind)).not.toContain(found.slug)
      if (kind === 'category') expect((await test.read(`/category/${found.slug}`)).status).toBe(404)
      expect((await test.read('/posts')).text).not.toContain(`/${kind}/${found.slug}"`)
      expect((await restore(gone.answer.deleted)).status).toBe(200)
      expect(await everything()).toEqual(before)
      expect((await restore(gone.answer.deleted)).status).toBe(404)
    },
  )
  it.each(['category', 'tag', 'author'])(
    'a %s is merged into another with its posts, and undone exactly',
    async (kind) => {
      const [one, two] = await terms(kind)
      if (!one || !two) throw new Error('none')
      const before = await everything()
      const gone = await remove(kind, two, { into: one.slug })
      expect(gone.status).toBe(200)
      const merged = await term(kind, one.slug)
      expect(merged.posts.published).toBeGreaterThanOrEqual(
        Math.max(one.posts.published, two.posts.published),
      )
      expect(merged.former).toContain(two.slug)
      if (kind === 'category')
        expect(await test.read(`/category/${two.slug}`)).toMatchObject({
          status: 301,
          to: `/category/${one.slug}`,
        })
      expect((await restore(gone.answer.deleted)).status).toBe(200)
      expect(await everything()).toEqual(before)
      if (kind === 'category') expect((await test.read(`/category/${two.slug}`)).status).toBe(200)
    },
  )
  it('categories below a deleted one move up, and back when it is restored', async () => {
    const inner = await term('category', 'clocks-and-toys')
    await test.api('POST', '/api/category/move?slug=clocks-and-toys', {
      version: inner.version,
      parent: 'woodwork',
      before: null,
    })
    const before = await everything()
    const gone = await remove('category', await term('category', 'woodwork'), { evenIfUsed: true })
    expect((await term('category', 'clocks-and-toys')).parent).toBe(null)
    await restore(gone.answer.deleted)
    expect(await everything()).toEqual(before)
    const into = await remove('category', await term('category', 'woodwork'), { into: 'clocks-and-toys' })
    expect(into.status).toBe(422)
  })
  it('a post that has another category since keeps it', async () => {
    const gone = await remove('category', await term('category', 'textiles'), { evenIfUsed: true })
    const [post] = await test.database
      .query<{ id: number }[]>(
        'UPDATE post SET category_id = (SELECT id FROM category WHERE slug = $1) WHERE id = (SELECT min(id) FROM post WHERE category_id IS NULL) RETURNING id',
        ['bicycles'],
      )
      .then(([rows]) => rows as unknown as { id: number }[])
    await restore(gone.answer.deleted)
    const [now] = await test.database.query<{ slug: string }[]>(
      'SELECT category.slug FROM post JOIN category ON category.id = category_id WHERE post.id = $1',
      [post?.id],
    )
    expect(now?.slug).toBe('bicycles')
  })
  it('a category is restored at the top if the one above it was deleted meanwhile', async () => {
    const create = (slug: string, parent: string | null) =>
      test.api('POST', '/api/terms', { kind: 'category', name: slug, slug, parent })
    await create('above', null)
    await create('inside', 'above')
    const inside = await remove('category', await term('category', 'inside'))
    expect((await remove('category', await term('category', 'above'))).status).toBe(200)
    expect((await restore(inside.answer.deleted)).status).toBe(200)
    expect(await term('category', 'inside')).toMatchObject({ parent: null, depth: 0 })
    await remove('category', await term('category', 'inside'))
  })
  it('a term is not restored while another one has its slug', async () => {
    const gone = await remove('tag', await term('tag', 'glue'), { evenIfUsed: true })
    await test.api('POST', '/api/terms', { kind: 'tag', name: 'Glue' })
    const refused = await restore(gone.answer.deleted)
    expect([refused.status, refused.answer['code']]).toEqual([409, 'restore-name-taken'])
    expect((await test.api<{ name: string }[]>('GET', '/api/deleted?kind=tag')).answer[0]?.name).toBe('glue')
  })
})
