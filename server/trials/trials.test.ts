// No save breaks an address: a definition is tried against the real content before it counts, beside the event loop.
import { afterAll, beforeAll, expect, it } from 'vitest'
import { saveTexts, textOf } from '../testing/edits.ts'
import { testWorkbench, type TestWorkbench } from '../testing/workbench.ts'

let test: TestWorkbench
beforeAll(async () => (test = await testWorkbench()))
afterAll(() => test.close())

const POST = 'templates/pages/post.liquid'
const problemsOf = async (path: string, change: (text: string) => string) => {
  const saved = await saveTexts(test.blog, { [path]: change(await textOf(test.blog, path)) })
  return saved.ok ? [] : saved.problems
}
const version = async (path: string) =>
  (await test.api<{ version: number }>('GET', `/api/document?path=${path}`)).answer.version
const put = async (path: string, text: string, insist?: boolean) =>
  await test.api('PUT', '/api/document', {
    path,
    text,
    version: await version(path),
    ...(insist === undefined ? {} : { insist }),
  })

it('refuses a save with which an address would answer 500, with the address, the line and the reason', async () => {
  const found = await problemsOf(POST, (text) =>
    `${text}\n{% block more %}{% endblock %}`.replace('{{ post.html', '{{ post.title | raw }}{{ post.html'),
  )
  expect(found).toContainEqual(
    expect.objectContaining({
      code: 'address-would-fail',
      file: POST,
      line: expect.any(Number) as number,
      message: expect.stringMatching(
        /^\/posts\/[\w-]+ would answer 500: “raw” prints safe HTML only/,
      ) as string,
    }),
  )
  expect((await test.read('/posts/moth')).status).toBe(200)
})

it.each<[string, string, RegExp]>([
  ['a later page', 'templates/pages/listing.liquid', /\/posts\?page=2 would answer 500/],
  ['the page for addresses that are not found', 'templates/pages/not-found.liquid', /^\/no-such-address/],
  ['the form with its errors', POST, /^POST \/posts\/[\w-]+\/comments would answer 500/],
])('refuses a save that breaks %s', async (_, path, message) => {
  const trap = {
    'templates/pages/listing.liquid': '{% if posts.page == 2 %}{{ blog.title | raw }}{% endif %}',
    'templates/pages/not-found.liquid': '{{ blog.title | raw }}',
    [POST]: '{% if form.errors.name %}{{ blog.title | raw }}{% endif %}',
  }[path]
  const found = await problemsOf(path, (text) =>
    text.replace(/{% block (\w+) %}/, (block) => `${block}${trap ?? ''}`),
  )
  expect(found.map((one) => [one.code, message.test(one.message)])).toContainEqual([
    'address-would-fail',
    true,
  ])
})

it('stops a template that does not come to an end, and refuses it', { timeout: 60_000 }, async () => {
  const endless = '{% for a in (1..3000000) %}{% assign b = a | times: 2 %}{% endfor %}'
  const found = await problemsOf('templates/pages/archive.liquid', (text) =>
    text.replace(/{% block (\w+) %}/, (block) => block + endless),
  )
  expect(found.length).toBeGreaterThan(0)
  for (const one of found) expect(one.code).toMatch(/^address-would-(fail|not-end)$/)
  expect((await test.read('/archive')).status).toBe(200)
})

it('saves what an author insists on; other saves are then not refused for it, and correcting it is possible', async () => {
  const before = await textOf(test.blog, POST)
  const broken = before.replace(/{% block (\w+) %}/, (block) => `${block}{{ blog.title | raw }}`)
  const refused = await put(POST, broken)
  expect([refused.status, refused.answer['code']]).toEqual([422, 'address-would-fail'])
  expect((await put(POST, broken, true)).status).toBe(200)
  expect((await test.read('/posts/moth')).status).toBe(500)
  expect((await put(POST, `${broken}\n`)).status).toBe(200)
  expect((await put(POST, before)).status).toBe(200)
  expect((await test.read('/posts/moth')).status).toBe(200)
})

it('reports a definition that is not valid', async () => {
  expect(
    (await problemsOf('routes.yaml', (text) => text.replace('pages/home', 'pages/hom'))).map(
      (one) => one.code,
    ),
  ).toEqual(['template-unknown'])
})
