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
const send = async (files: { name: string; text: string }[], createMissing?: boolean) =>
  (
    await test.api<AnswerOf<'POST /api/posts/import'>>('POST', '/api/posts/import', {
      files,
      ...(createMissing === undefined ? {} : { createMissing }),
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
})
