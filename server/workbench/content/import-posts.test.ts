// Importing Markdown files over the API: names or slugs, everything that is missing in one round, and creating it.
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { AnswerOf } from '../../../contract/operations.ts'
import type { Post } from '../../../contract/posts.ts'
import { testWorkbench, type TestWorkbench } from '../../testing/workbench.ts'

let test: TestWorkbench
beforeAll(async () => (test = await testWorkbench()))
afterAll(() => test.close())

const file = (name: string, matter: string) => ({
  name: `${name}.md`,
  text: `---\ntitle: ${name}\n${matter}---\n\nText.`,
})
const send = async (
  files: { name: string; text: string }[],
  createMissing?: boolean,
  more: object = { skipRefused: true },
) =>
  (
    await test.api<AnswerOf<'POST /api/posts/import'>>('POST', '/api/posts/import', {
      files,
      ...(createMissing === undefined ? {} : { createMissing }),
      ...more,
    })
  ).answer
const post = async (slug: string) => (await test.api<Post>('GET', `/api/post?slug=${slug}`)).answer

describe('an import', () => {
  it('accepts names as well as slugs', async () => {
    const { results } = await send([
      file('by-name', 'category: Clocks and toys\nauthor: Wen Adeyemi\ntags: [Glue, wheels]\n'),
      file('by-slug', 'category: clocks-and-toys\nauthor: wen-adeyemi\ntags: [glue, wheels]\n'),
    ])
    expect(results.map((one) => one.outcome)).toEqual(['created', 'created'])
    for (const slug of ['by-name', 'by-slug'])
      expect((await post(slug)).matter).toMatchObject({
        category: 'clocks-and-toys',
        author: 'wen-adeyemi',
        tags: ['glue', 'wheels'],
      })
  })

  const missing = [
    file('one', 'category: New things\nauthor: Nia Byrne\ntags: [fresh]\n'),
    file('two', 'category: New things\ntags: [fresh, glue]\n'),
    file('three', 'tags: [glue]\n'),
  ]

  it('reports everything that is missing at once, with the files, and imports the others', async () => {
    const { results, missing: reported } = await send(missing)
    expect(results.map((one) => one.outcome)).toEqual(['refused', 'refused', 'created'])
    expect(reported).toEqual(
      expect.arrayContaining([
        { kind: 'category', name: 'New things', files: ['one.md', 'two.md'] },
        { kind: 'author', name: 'Nia Byrne', files: ['one.md'] },
        { kind: 'tag', name: 'fresh', files: ['one.md', 'two.md'] },
      ]),
    )
    expect(reported).toHaveLength(3)
    expect(results[0]?.problems.map((one) => one.code)).toEqual([
      'reference-unknown',
      'reference-unknown',
      'reference-unknown',
    ])
  })

  it('creates what is missing if it is asked to', async () => {
    const { results, missing: left } = await send(missing, true)
    expect([results.map((one) => one.outcome), left]).toEqual([['created', 'created', 'unchanged'], []])
    expect((await post('one')).matter).toMatchObject({
      category: 'new-things',
      author: 'nia-byrne',
      tags: ['fresh'],
    })
    const again = await send(missing, true)
    expect(again.results.map((one) => one.outcome)).toEqual(['unchanged', 'unchanged', 'unchanged'])
  })

  describe('of several requests', () => {
    const id = '0f0e0d0c-0b0a-4908-8706-050403020100'
    const first = [file('part-one', ''), file('part-two', '')]
    const exists = async (slug: string) => (await test.api('GET', `/api/post?slug=${slug}`)).status === 200

    it('imports all files together, and nothing before the last request', async () => {
      expect(await send(first, undefined, { import: id, more: true })).toMatchObject({
        isDone: false,
        results: [],
      })
      expect(await exists('part-one')).toBe(false)
      const { isDone, results } = await send([file('part-three', '')], undefined, { import: id })
      expect([isDone, results.map((one) => one.file)]).toEqual([
        true,
        ['part-one.md', 'part-two.md', 'part-three.md'],
      ])
      expect(await exists('part-one')).toBe(true)
    })
    it('imports nothing if a file of any request is refused, and then the others if that is wanted', async () => {
      await send([file('sound', '')], undefined, { import: id, more: true })
      const refused = await send([file('faulty', 'tags: [unknown-tag]\n')], undefined, { import: id })
      expect(refused.results.map((one) => one.outcome)).toEqual(['created', 'refused'])
      expect([refused.isDone, await exists('sound')]).toEqual([false, false])
      expect((await test.api('GET', `/api/posts/import?import=${id}`)).answer).toEqual({ done: 2, total: 2 })
      const again = await send([], undefined, { import: id, skipRefused: true })
      expect([again.isDone, await exists('sound'), await exists('faulty')]).toEqual([true, true, false])
      expect((await test.api('GET', `/api/posts/import?import=${id}`)).status).toBe(404)
    })
    it('is stopped without importing anything, and its files are forgotten', async () => {
      await send([file('stopped', '')], undefined, { import: id, more: true })
      await test.api('DELETE', `/api/posts/import?import=${id}`)
      const { status, answer } = await test.api('POST', '/api/posts/import', { import: id, files: [] })
      expect([status, answer['code']]).toEqual([404, 'import-unknown'])
      expect(await exists('stopped')).toBe(false)
    })
    it('refuses more files than an import can have', async () => {
      const large = { name: 'large.md', text: 'x'.repeat(900_000) }
      let status = 200
      for (let sent = 0; sent < 80 && status === 200; sent += 2)
        ({ status } = await test.api('POST', '/api/posts/import', {
          import: id,
          more: true,
          files: [large, large],
        }))
      expect(status).toBe(409)
      await test.api('DELETE', `/api/posts/import?import=${id}`)
    })
  })
})
