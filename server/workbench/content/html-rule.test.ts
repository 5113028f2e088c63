// The allow-list of HTML over the API: stored texts follow its changes.
import { afterAll, beforeAll, expect, it } from 'vitest'
import { keepTextsRendered } from '../../author/texts/render-again.ts'
import { testWorkbench, type TestWorkbench } from '../../testing/workbench.ts'
import type { AnswerOf } from '../../../contract/operations.ts'

type List = AnswerOf<'GET /api/html'>
let test: TestWorkbench
let end: () => Promise<void>
beforeAll(async () => {
  test = await testWorkbench()
  end = keepTextsRendered(test.blog)
})
afterAll(async () => {
  await end()
  await test.close()
})

const list = async () => (await test.api<List>('GET', '/api/html')).answer
const WHOLE = { typed: true, without: [] }

it('counts the texts that use each element', async () => {
  const { elements, rule, schemes } = await list()
  expect([rule, schemes]).toEqual([WHOLE, ['http', 'https', 'mailto', 'tel']])
  const [row] = await test.database.query<{ tables: number; links: number }[]>(
    `SELECT (SELECT count(*)::int FROM post WHERE html LIKE '%<table>%') + (SELECT count(*)::int FROM page WHERE html LIKE '%<table>%') AS tables,
       (SELECT count(*)::int FROM post WHERE html LIKE '%<a %') + (SELECT count(*)::int FROM page WHERE html LIKE '%<a %') AS links`,
  )
  expect(elements.find((one) => one.name === 'table')?.texts).toBe(row?.tables)
  expect(elements.find((one) => one.name === 'a')?.texts).toBe(row?.links)
})

it('previews a text without saving anything', async () => {
  const text = '**a** <script>alert(1)</script><u onmouseover="x()">u</u> ![p](/media/sign.svg)'
  const { answer } = await test.api<AnswerOf<'POST /api/html/preview'>>('POST', '/api/html/preview', {
    text,
    rule: { typed: true, without: ['u'] },
  })
  expect(answer.html).toContain('<strong>a</strong> u <img width=')
  expect(answer.removed).toEqual([
    { what: '<script>', times: 1 },
    { what: '<u>', times: 1 },
    { what: 'onmouseover of <u>', times: 1 },
  ])
  expect((await list()).rule).toEqual(WHOLE)
  const refused = await test.api('POST', '/api/html/preview', {
    text: '',
    rule: { typed: true, without: ['script'] },
  })
  expect(refused.status).toBe(400)
})

it('renders every stored text again when it is restricted, and restores them when it is widened', async () => {
  const html = async () =>
    await test.database.query<unknown[]>('SELECT slug, html, excerpt, word_count FROM post ORDER BY id')
  await test.api('POST', '/api/posts', {
    matter: { title: 'Unfolding', slug: 'unfolding', published: 'now' },
    body: '<details><summary>More</summary>inside</details>\n\n<u>under</u>',
  })
  const before = await html()
  expect((await test.read('/posts/unfolding')).text).toContain('<details>')
  const { version } = await list()
  const saved = await test.api<{ version: number }>('PUT', '/api/html', {
    version,
    rule: { typed: true, without: ['details', 'u'] },
  })
  expect(saved.status).toBe(200)
  await expect
    .poll(async () => (await test.read('/posts/unfolding')).text, { timeout: 60_000 })
    .not.toMatch(/<details>|<u>/)
  const second = await test.api('PUT', '/api/html', { version, rule: WHOLE })
  expect(second.status).toBe(409)
  await test.api('PUT', '/api/html', { version: saved.answer.version, rule: WHOLE })
  await expect.poll(html, { timeout: 60_000 }).toEqual(before)
})
