// Posts as files over the API: exported, imported again, and refused with their places.
import { parse as parseCsv } from 'csv-parse/sync'
import { strFromU8, unzipSync } from 'fflate'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { Post, PostList } from '../../../contract/posts.ts'
import { HOST, KEY, testWorkbench, type TestWorkbench } from '../../testing/workbench.ts'

let test: TestWorkbench
beforeAll(async () => (test = await testWorkbench()))
afterAll(() => test.close())

const api: TestWorkbench['api'] = (...words) => test.api(...words)
const list = async (query: string) => (await api<PostList>('GET', `/api/posts?${query}`)).answer
const read = async (slug: string) => await api<Post>('GET', `/api/post?slug=${slug}`)
const ref = async (slug: string) => ({ slug, version: (await read(slug)).answer.version })

describe('files', () => {
  const download = async (path: string) =>
    await test.app.request(`http://${HOST}${path}`, {
      headers: { host: HOST, authorization: `Bearer ${KEY}` },
    })
  const importFiles = async (files: { name: string; text: string }[], more: object = {}) =>
    (
      await api<{ results: { file: string; outcome: string; slug: string; problems: object[] }[] }>(
        'POST',
        '/api/posts/import',
        { files, ...more },
      )
    ).answer.results
  const all = async () =>
    Object.entries(
      unzipSync(new Uint8Array(await (await download('/api/posts/export.zip')).arrayBuffer())),
    ).map(([name, bytes]) => ({ name, text: strFromU8(bytes) }))

  it('are exported, and imported again without a change', async () => {
    const files = await all()
    expect(files.length).toBe((await list('')).total)
    expect(new Set((await importFiles(files)).map((one) => one.outcome))).toEqual(new Set(['unchanged']))
  })
  it('are exported, and restore lost posts byte for byte', async () => {
    const files = await all()
    await api('POST', '/api/posts/delete', {
      posts: [await ref('the-button-jar'), await ref('brakes-that-howl')],
    })
    const results = await importFiles(files)
    expect(
      results
        .filter((one) => one.outcome === 'created')
        .map((one) => one.slug)
        .sort(),
    ).toEqual(['brakes-that-howl', 'the-button-jar'])
    const byName = (list: { name: string }[]) => [...list].sort((a, b) => (a.name < b.name ? -1 : 1))
    expect(byName(await all())).toEqual(byName(files))
  })
  it('are created, changed or refused with a place, each on its own, or all or none', async () => {
    const files = [
      { name: 'a-new-one.md', text: '---\ntitle: A new one\n---\n\nText.' },
      { name: 'moth.md', text: '---\ntitle: Moth\ncategory: textiles\n---\n\nChanged.' },
      { name: 'bad.md', text: 'no front matter' },
      { name: 'worse.md', text: '---\ntitle: x\ncategory: none\n---\n' },
      { name: 'hostile.md', text: '---\ntitle: &a [*a]\n---\n' },
      { name: '../../etc/passwd.md', text: '---\ntitle: x\nslug: ../x\n---\n' },
      { name: 'again.md', text: '---\ntitle: A new one\nslug: a-new-one\n---\n\nText.' },
    ]
    const before = (await read('moth')).answer.body
    expect((await importFiles(files)).map((one) => one.outcome)).toContain('refused')
    expect((await read('moth')).answer.body).toBe(before)
    const results = await importFiles(files, { skipRefused: true })
    expect(results.map((one) => [one.file, one.outcome, one.problems.length > 0])).toEqual([
      ['a-new-one.md', 'created', false],
      ['moth.md', 'changed', false],
      ['bad.md', 'refused', true],
      ['worse.md', 'refused', true],
      ['hostile.md', 'refused', true],
      ['../../etc/passwd.md', 'refused', true],
      ['again.md', 'unchanged', false],
    ])
    expect(results[2]?.problems[0]).toMatchObject({ line: 1, code: 'front-matter-missing' })
    expect((await read('moth')).answer.body).toBe('Changed.')
  })
  it('contain a table as CSV that another library parses, without formulas', async () => {
    await api('POST', '/api/posts', { matter: { title: '=1+1, "quoted"\'s' }, body: '' })
    const response = await download('/api/posts/export.csv')
    expect(response.headers.get('content-disposition')).toContain('posts.csv')
    const rows = parseCsv(await response.text(), { columns: true }) as Record<string, string>[]
    expect(rows.length).toBe((await list('')).total)
    expect(rows.find((one) => one['slug']?.startsWith('1-1'))?.['title']).toBe('\'=1+1, "quoted"\'s')
    expect(rows.find((one) => one['slug'] === 'zip-surgery')).toMatchObject({ state: 'published' })
  })
  it.each(['pages', 'categories', 'tags', 'authors', 'images'])(
    'contain a table of %s as CSV with a row for each',
    async (what) => {
      const table = {
        pages: 'page',
        categories: 'category',
        tags: 'tag',
        authors: 'author',
        images: 'image',
      }[what]
      const text = what === 'pages' ? 'title' : 'name'
      if (what !== 'images')
        await test.database.query(
          `UPDATE ${table} SET ${text} = $1 WHERE id = (SELECT min(id) FROM ${table})`,
          ['@SUM(1), "a"\nb'],
        )
      const response = await download(`/api/${what}/export.csv`)
      const rows = parseCsv(await response.text(), { columns: true }) as Record<string, string>[]
      const [row] = await test.database.query<{ count: number }[]>(
        `SELECT count(*)::int AS count FROM ${table}`,
      )
      expect(rows.length).toBe(row?.count)
      if (what !== 'images') expect(rows.map((one) => one[text])).toContain('\'@SUM(1), "a"\nb')
    },
  )
  it('need the key', async () => {
    for (const path of ['/api/posts/export.zip', '/api/posts/export.csv'])
      expect((await test.app.request(`http://${HOST}${path}`, { headers: { host: HOST } })).status).toBe(401)
  })
})
