// Pages over the API: written, moved, deleted and restored, and what readers see of them.
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { testWorkbench, type TestWorkbench } from '../../testing/workbench.ts'
import type { Page, PageSummary } from '../../../contract/pages.ts'

let test: TestWorkbench
beforeAll(async () => (test = await testWorkbench()))
afterAll(() => test.close())

const pages = async () => (await test.api<PageSummary[]>('GET', '/api/pages')).answer
const paths = async () => (await pages()).map((one) => one.path)
const page = async (path: string) => (await test.api<Page>('GET', `/api/page?path=${path}`)).answer
const place = async (path: string, to: { parent: string | null; before: string | null; slug?: string }) =>
  await test.api<{ path: string; former: string[]; problems: { code: string }[] }>(
    'POST',
    `/api/page/move?path=${path}`,
    { version: (await page(path)).version, ...to },
  )
const stored = () =>
  test.database.query<unknown[]>(
    'SELECT id, parent_id, path, slug, title, body, html, position, in_navigation FROM page ORDER BY id',
  )

const TREE = [
  'open-days',
  'open-days/what-to-bring',
  'open-days/house-rules',
  'tool-library',
  'tool-library/borrowing',
  'about',
  'about/how-to-find-us',
  'about/people',
]

it('are listed as a tree, each with its address', async () => {
  expect((await paths()).toSorted()).toEqual(TREE.toSorted())
  for (const one of await pages()) {
    expect(one.depth).toBe(one.path.split('/').length - 1)
    expect((await test.read(one.address ?? '')).status).toBe(200)
  }
})

describe('writing', () => {
  it('creates a page that readers see at once', async () => {
    const made = await test.api<{ path: string }>('POST', '/api/pages', {
      title: 'Where the money goes',
      body: '## Tea\n\n**Mostly** tea. <script>alert(1)</script>',
      inNavigation: true,
      parent: 'about',
    })
    expect([made.status, made.answer.path, made.etag]).toEqual([200, 'about/where-the-money-goes', '"1"'])
    const { text } = await test.read('/about/where-the-money-goes')
    expect(text).toContain('<strong>Mostly</strong> tea.')
    expect(text).not.toContain('alert(1)')
    const again = await test.api<{ path: string }>('POST', '/api/pages', {
      title: 'Where the money goes',
      body: '',
      inNavigation: false,
      parent: 'about',
    })
    expect(again.answer.path).toBe('about/where-the-money-goes-2')
    for (const path of ['about/where-the-money-goes', 'about/where-the-money-goes-2'])
      await test.api('POST', `/api/page/delete?path=${path}`, { version: 1 })
  })
  it('shows a save at once, and a second save of the same version is a conflict with the stored text', async () => {
    const { version, title, inNavigation } = await page('about')
    await test.read('/about')
    const save = (body: string) =>
      test.api<{ text: string }>('PUT', '/api/page?path=about', { version, title, inNavigation, body })
    expect((await save('We mend **things**.')).status).toBe(200)
    expect((await test.read('/about')).text).toContain('We mend <strong>things</strong>.')
    const second = await save('We mend people.')
    expect([second.status, second.answer.text]).toEqual([409, 'We mend **things**.'])
    expect((await test.read('/about')).text).not.toContain('people.</p>')
  })
  it('removes a page from the navigation everywhere', async () => {
    const { version, title, body } = await page('tool-library')
    expect((await test.read('/posts')).text).toContain('href="/tool-library"')
    await test.api('PUT', '/api/page?path=tool-library', { version, title, body, inNavigation: false })
    expect((await test.read('/posts')).text).not.toContain('href="/tool-library"')
    await test.api('PUT', '/api/page?path=tool-library', {
      version: version + 1,
      title,
      body,
      inNavigation: true,
    })
  })
  it.each([
    [{ title: '   ', body: '', inNavigation: false }, 'title-empty'],
    [{ title: '???', body: '', inNavigation: false }, 'slug-not-derivable'],
    [{ title: 'A', body: 'a\0b', inNavigation: false }, 'text-null-character'],
    [{ title: 'A', body: 'x'.repeat(500_001), inNavigation: false }, 'text-too-long'],
    [{ title: 'A', body: '', inNavigation: false, parent: 'nowhere' }, 'tree-parent-unknown'],
    [{ title: 'A', body: '', inNavigation: false, slug: 'about' }, 'path-taken'],
  ])('case %# is refused with a code, and nothing is saved', async (body, code) => {
    const before = await stored()
    const { status, answer } = await test.api<{ problems: { code: string }[] }>('POST', '/api/pages', body)
    expect([status, answer.problems[0]?.code]).toEqual([422, code])
    expect(await stored()).toEqual(before)
  })
  it('previews the page with its template, and changes nothing', async () => {
    const before = await stored()
    for (const path of ['about', null]) {
      const { answer } = await test.api<{ html: string; wordCount: number; path: string }>(
        'POST',
        '/api/page/preview',
        { path, title: 'What <we> do', body: '*Mend*, mostly.', inNavigation: true },
      )
      expect(answer.html).toContain('<em>Mend</em>, mostly.')
      expect(answer.html).toContain('What &lt;we&gt; do')
      expect(answer.wordCount).toBe(2)
    }
    expect(await stored()).toEqual(before)
  })
})

describe('the tree', () => {
  it('is sorted, and the navigation follows', async () => {
    const before = await paths()
    expect((await place('about', { parent: null, before: 'open-days' })).status).toBe(200)
    expect((await paths())[0]).toBe('about')
    const nav = (await test.read('/posts')).text
    expect(nav.indexOf('href="/about"')).toBeLessThan(nav.indexOf('href="/open-days"'))
    expect((await place('about', { parent: null, before: null })).status).toBe(200)
    expect(await paths()).toEqual(before)
  })
  it('moves a page with those below it, and every former address redirects', async () => {
    const moved = await place('tool-library', { parent: 'about', before: 'about/people' })
    expect(moved.answer).toMatchObject({
      path: 'about/tool-library',
      former: ['tool-library', 'tool-library/borrowing'],
    })
    expect(await paths()).toContain('about/tool-library/borrowing')
    expect(await test.read('/tool-library/borrowing')).toMatchObject({
      status: 301,
      to: '/about/tool-library/borrowing',
    })
    expect((await place('about/tool-library', { parent: null, before: 'about' })).status).toBe(200)
    expect((await test.read('/tool-library/borrowing')).status).toBe(200)
  })
  it('never has a cycle, and refuses an outdated order', async () => {
    const below = await place('about', { parent: 'about/people', before: null })
    expect(below.answer.problems[0]?.code).toBe('tree-cycle')
    const gone = await place('about', { parent: null, before: 'not-there' })
    expect(gone.answer.problems[0]?.code).toBe('tree-order-changed')
    expect((await paths()).toSorted()).toEqual(TREE.toSorted())
  })
})

describe('deleting', () => {
  it('deletes the pages below it, and restores all of them exactly', async () => {
    const before = await stored()
    const { version } = await page('open-days')
    const gone = await test.api<{ deleted: number; pages: number }>(
      'POST',
      '/api/page/delete?path=open-days',
      { version },
    )
    expect(gone.answer.pages).toBe(3)
    expect((await test.read('/open-days/house-rules')).status).toBe(404)
    expect((await test.read('/posts')).text).not.toContain('href="/open-days"')
    expect((await test.api('POST', '/api/deleted/restore', { deleted: gone.answer.deleted })).status).toBe(
      200,
    )
    expect(await stored()).toEqual(before)
    expect((await test.read('/open-days/house-rules')).status).toBe(200)
  })
  it('restores a page below its parent at its current place, and not without it', async () => {
    const child = await page('about/people')
    const gone = await test.api<{ deleted: number }>('POST', '/api/page/delete?path=about/people', {
      version: child.version,
    })
    await place('about', { parent: null, before: null, slug: 'who-we-are' })
    await test.api('POST', '/api/deleted/restore', { deleted: gone.answer.deleted })
    expect(await paths()).toContain('who-we-are/people')
    const again = await test.api<{ deleted: number }>('POST', '/api/page/delete?path=who-we-are/people', {
      version: child.version,
    })
    const parent = await test.api<{ deleted: number }>('POST', '/api/page/delete?path=who-we-are', {
      version: (await page('who-we-are')).version,
    })
    const refused = await test.api('POST', '/api/deleted/restore', { deleted: again.answer.deleted })
    expect([refused.status, refused.answer['code']]).toEqual([409, 'restore-parent-missing'])
    await test.api('POST', '/api/deleted/restore', { deleted: parent.answer.deleted })
    expect((await test.api('POST', '/api/deleted/restore', { deleted: again.answer.deleted })).status).toBe(
      200,
    )
    expect(await paths()).toContain('who-we-are/people')
  })
})
