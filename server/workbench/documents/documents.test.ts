// Documents over the API: saved one by one or together, deleted, and undone. Changes are applied all or none.
import fc from 'fast-check'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { AppliedChanges, DocumentSummary, StoredDocument } from '../../../contract/documents.ts'
import type { Page } from '../../../contract/pages.ts'
import type { Term } from '../../../contract/terms.ts'
import type { ChangeStep } from '../../../core/shapes/changes.ts'
import { loadDocuments } from '../../publish/documents.ts'
import { testWorkbench, type TestWorkbench } from '../../testing/workbench.ts'

let test: TestWorkbench
beforeAll(async () => (test = await testWorkbench()))
afterAll(() => test.close())

interface Answer extends AppliedChanges {
  code: string
  problems: { code: string; file: string; line?: number; missing?: string }[]
  document?: string
}
const read = async (path: string) =>
  await test.api<StoredDocument>('GET', `/api/document?path=${encodeURIComponent(path)}`)
const put = (path: string, text: string, version: number, headers = {}) =>
  test.api<Answer & { version: number }>('PUT', '/api/document', { path, text, version }, headers)
const change = (...steps: ChangeStep[]) => test.api<Answer>('POST', '/api/changes', { steps })
const save = (document: string, text: string, basis = ''): ChangeStep => ({
  do: 'save-document',
  document,
  text,
  basis,
})
const documents = () => loadDocuments(test.database)
/** Everything that changes can touch, without versions and times. */
const everything = async () => [
  ...[...(await documents())].sort(([a], [b]) => (a < b ? -1 : 1)),
  ...(await test.database.query<unknown[]>(
    'SELECT id, slug, title, body, category_id FROM post ORDER BY id',
  )),
  ...(await test.database.query<unknown[]>('SELECT id, slug, name, parent_id FROM category ORDER BY id')),
  ...(await test.database.query<unknown[]>('SELECT id, path, parent_id FROM page ORDER BY id')),
]

describe('a document', () => {
  it('is listed with the documents that refer to it', async () => {
    const { answer } = await test.api<DocumentSummary[]>('GET', '/api/documents')
    const uses = (path: string) => answer.find((one) => one.path === path)?.usedBy
    expect(uses('queries/all-posts.yaml')).toEqual(['routes.yaml'])
    expect(uses('templates/layouts/base.liquid')).toContain('templates/pages/home.liquid')
    expect(uses('assets/blog.css')).toEqual(['templates/layouts/base.liquid'])
  })
  it('is saved only with its current version (RFC 9110 §13.1.1)', async () => {
    const path = 'queries/by-version.yaml'
    expect((await put(path, 'from: tags\ntake: all\n', 0)).answer.version).toBe(1)
    expect((await put(path, 'from: posts\ntake: all\n', 0)).status).toBe(409)
    const { etag, answer } = await read(path)
    expect([etag, answer.text]).toEqual(['"1"', 'from: tags\ntake: all\n'])
    const byHeader = await test.api(
      'PUT',
      '/api/document',
      { path, text: 'from: authors\ntake: all\n' },
      { 'if-match': etag ?? '' },
    )
    expect([byHeader.status, byHeader.etag]).toEqual([200, '"2"'])
    const stale = await test.api('PUT', '/api/document', { path, text: '' }, { 'if-match': etag ?? '' })
    expect(stale.status).toBe(412)
    expect((await test.api('PUT', '/api/document', { path, text: '' })).status).toBe(428)
  })
  it('that is invalid is refused, and names a document that has to be created', async () => {
    const path = 'templates/pages/home.liquid'
    const { answer: before } = await read(path)
    const { status, answer } = await put(path, `${before.text}{{ 'extra.css' | asset }}`, before.version)
    expect([status, answer.problems]).toMatchObject([
      422,
      [{ code: 'template-asset-unknown', file: path, missing: 'assets/extra.css' }],
    ])
    expect((await read(path)).answer).toEqual(before)
  })
})

describe('several changes', () => {
  it('are applied together or not at all', async () => {
    const before = await documents()
    const { status, answer } = await change(
      save('queries/fresh.yaml', 'from: posts\ntake: all\n'),
      save('templates/pages/fresh.liquid', '{% nonsense %}'),
    )
    expect([status, answer.problems]).toMatchObject([
      422,
      [{ file: 'templates/pages/fresh.liquid', line: 1 }],
    ])
    expect(await documents()).toEqual(before)
  })
  it('of the definition and of content are applied together or not at all', async () => {
    const before = await everything()
    const { status, answer } = await change(
      save('queries/fresh.yaml', 'from: posts\ntake: all\n'),
      { do: 'change-slug', kind: 'post', from: 'moth', to: 'a-moth' },
      { do: 'change-slug', kind: 'post', from: 'a-moth', to: 'zip-surgery' },
    )
    expect([status, answer.code]).toEqual([422, 'slug-taken'])
    expect(await everything()).toEqual(before)
    // Neither the definition in force nor stored copies know of the attempt.
    expect(test.blog.site.queries.has('fresh')).toBe(false)
    expect((await test.read('/posts/moth')).status).toBe(200)
  })
  it('return the changes that undo them, and the addresses that have changed', async () => {
    const before = await everything()
    const term = (await test.api<Term>('GET', '/api/term?kind=category&slug=woodwork')).answer
    const routes = (await read('routes.yaml')).answer.text
    const applied = await change(
      save('queries/fresh.yaml', 'from: tags\ntake: all\n'),
      save('routes.yaml', `${routes}\n`, routes),
      { do: 'change-slug', kind: 'post', from: 'moth', to: 'a-moth' },
      { do: 'change-slug', kind: 'page', from: 'about', to: 'us' },
      { do: 'delete-term', kind: 'category', slug: 'woodwork', version: term.version },
    )
    // A category in use is deleted only if nothing uses it: the step is refused with all others.
    expect([applied.status, applied.answer.code]).toEqual([409, 'term-in-use'])
    expect(await everything()).toEqual(before)
    await test.api('POST', '/api/terms', { kind: 'category', name: 'Empty' })
    const withEmpty = await everything()
    const again = await change(
      save('queries/fresh.yaml', 'from: tags\ntake: all\n'),
      save('routes.yaml', `${routes}\n`, routes),
      { do: 'change-slug', kind: 'post', from: 'moth', to: 'a-moth' },
      { do: 'change-slug', kind: 'page', from: 'about', to: 'us' },
      { do: 'delete-term', kind: 'category', slug: 'empty', version: 1 },
    )
    expect(again.status).toBe(200)
    expect(again.answer.addresses).toEqual(['/posts/a-moth', '/us'])
    expect((await test.read('/posts/a-moth')).status).toBe(200)
    expect((await change(...again.answer.undo)).status).toBe(200)
    expect(await everything()).toEqual(withEmpty)
    expect((await test.read('/posts/moth')).status).toBe(200)
    expect((await test.read('/about')).status).toBe(200)
  })
  it('are undone and redone any number of times', async () => {
    const step = fc.constantFrom<ChangeStep>(
      save('queries/one.yaml', 'from: tags\ntake: all\n'),
      save('assets/extra.css', 'p { margin: 0 }\n'),
      { do: 'change-slug', kind: 'post', from: 'zip-surgery', to: 'zips' },
      { do: 'change-slug', kind: 'category', from: 'textiles', to: 'cloth' },
      { do: 'change-slug', kind: 'page', from: 'tool-library', to: 'about/tools' },
    )
    await fc.assert(
      fc.asyncProperty(fc.uniqueArray(step, { minLength: 1 }), async (steps) => {
        const before = await everything()
        const applied = await change(...steps)
        expect(applied.status).toBe(200)
        const after = await everything()
        const undone = await change(...applied.answer.undo)
        expect(await everything()).toEqual(before)
        const redone = await change(...undone.answer.undo)
        expect(await everything()).toEqual(after)
        expect((await change(...redone.answer.undo)).status).toBe(200)
        expect(await everything()).toEqual(before)
      }),
      { numRuns: 15 },
    )
  })
  it('that are based on another text are a conflict', async () => {
    const routes = (await read('routes.yaml')).answer.text
    const { status, answer } = await change(save('routes.yaml', '[]', `${routes}# outdated`))
    expect([status, answer.document]).toEqual([409, 'routes.yaml'])
    expect((await read('routes.yaml')).answer.text).toBe(routes)
  })
  it('need a basis', async () => {
    const { status, answer } = await change({ do: 'save-document', document: 'routes.yaml', text: '[]' })
    expect([status, answer.code]).toEqual([422, 'change-basis-missing'])
  })
  it('delete a document only if nothing refers to it', async () => {
    await put('queries/spare.yaml', 'from: tags\ntake: all\n', 0)
    const remove = (document: string, version: number) => change({ do: 'delete-document', document, version })
    expect((await remove('queries/spare.yaml', 9)).status).toBe(409)
    const deleted = await remove('queries/spare.yaml', 1)
    expect(deleted.status).toBe(200)
    expect((await read('queries/spare.yaml')).status).toBe(404)
    expect((await change(...deleted.answer.undo)).status).toBe(200)
    expect((await read('queries/spare.yaml')).answer.text).toBe('from: tags\ntake: all\n')
    const used = await remove('queries/all-posts.yaml', 1)
    expect([used.status, used.answer.problems[0]]).toMatchObject([
      422,
      { code: 'data-query-unknown', missing: 'queries/all-posts.yaml' },
    ])
    expect((await remove('blog.yaml', 1)).status).toBe(422)
    expect((await remove('content/posts/moth.md', 1)).answer.code).toBe('change-content-delete')
  })
})

describe('content as files', () => {
  it('of a post and of a page is read and saved', async () => {
    const { answer } = await read('content/posts/moth.md')
    const saved = await put(
      'content/posts/moth.md',
      answer.text.replace('slug: moth', 'slug: moths'),
      answer.version,
    )
    expect(saved.answer).toMatchObject({ path: 'content/posts/moths.md', version: answer.version + 1 })
    expect(await test.read('/posts/moth')).toMatchObject({ status: 301, to: '/posts/moths' })
    const page = (await read('content/pages/about.md')).answer
    expect(
      (await put('content/pages/about.md', page.text.replace('title: ', 'title: All '), page.version)).status,
    ).toBe(200)
    expect((await test.api<Page>('GET', '/api/page?path=about')).answer.title).toMatch(/^All /)
  })
})
