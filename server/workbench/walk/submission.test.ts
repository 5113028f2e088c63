// Walking a comment form: every step with its reason, rehearsed or for real, on the path of readers' forms.
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest'
import type { BodyOf } from '../../../contract/operations.ts'
import type { SubmissionWalk, TrafficItem } from '../../../contract/walk.ts'
import { commentedPage, type CommentedPage } from '../../testing/comments.ts'
import { saveTexts, textOf } from '../../testing/edits.ts'
import { testWorkbench, type TestWorkbench } from '../../testing/workbench.ts'

let test: TestWorkbench
let page: CommentedPage
beforeAll(async () => {
  test = await testWorkbench()
  page = commentedPage(test)
})
afterAll(() => test.close())
beforeEach(() => page.clear())

type Wanted = BodyOf<'POST /api/walk/submission'>
const FIELDS = { name: 'Vera', email: '', site: '', text: 'The hinge holds, thank you.' }
const post = (more: Partial<Wanted> = {}) =>
  test.api<SubmissionWalk>('POST', '/api/walk/submission', {
    path: '/posts/moth',
    fields: FIELDS,
    keep: false,
    ...more,
  })
const walk = async (more: Partial<Wanted> = {}) => (await post(more)).answer
const codes = ({ walk: { submission } }: SubmissionWalk) => submission?.steps.map((one) => one.code)
const lastOf = ({ walk: { submission } }: SubmissionWalk) => submission?.steps.at(-1)

describe('a rehearsal', () => {
  it('shows every step, the statements, the row, and what the reader sees next', async () => {
    const walked = await walk()
    expect(codes(walked)).toEqual(
      ['origin', 'post', 'form', 'values', 'open', 'token', 'sent-before', 'rate', 'rate'].concat([
        ...['history', 'score', 'decision', 'written'],
      ]),
    )
    const { submission, response, route, queries, failure } = walked.walk
    expect(failure).toBeNull()
    expect(route.name).toBe('add-comment')
    expect(queries.runs.map((one) => one.data)).toContain('post')
    expect(response.status).toBe(303)
    expect(submission?.result).toMatchObject({ outcome: 'waiting', why: ['unknown-writer'] })
    expect(submission?.statements.some(({ sql }) => sql.startsWith('INSERT INTO "comment"'))).toBe(true)
    expect(submission?.row).toMatchObject({ name: 'Vera', text: FIELDS.text, state: 'waiting', depth: 0 })
    expect(Object.keys(submission?.row ?? {})).not.toContain('client')
    expect(walked.next).toMatchObject({ isSeenByWriter: true, isSeenByOthers: false })
    expect(walked.next?.walk.response.body).toContain(FIELDS.text)
  })
  it('keeps nothing: no comment, no count, no rate', async () => {
    const count = async () =>
      (await test.database.query<{ n: number }[]>('SELECT count(*)::int AS n FROM comment'))[0]?.n
    const before = await count()
    for (let time = 0; time < 3; time++) await walk()
    expect(await count()).toBe(before)
    expect(await test.database.query('SELECT * FROM comment_rate')).toEqual([])
    expect(await page.stored()).toEqual([])
  })
  it('names the copies that would be dropped, and drops none', async () => {
    await page.withRules('{ show: at-once }', async () => {
      for (const path of ['/', '/posts', '/posts/moth']) await test.read(path)
      const kept = [...test.blog.fragments.entries()].length
      const rehearsed = (await walk()).walk.submission?.dropped ?? []
      expect([...test.blog.fragments.entries()]).toHaveLength(kept)
      const sent = (await walk({ keep: true })).walk.submission?.dropped ?? []
      expect(sent.map((one) => one.key)).toEqual(rehearsed.map((one) => one.key))
      expect(sent.length).toBeGreaterThan(0)
    })
  })
})

it('sent for real, the comment is stored as it was rehearsed', async () => {
  const rehearsed = (await walk()).walk.submission
  const sent = (await walk({ keep: true })).walk.submission
  expect(sent?.steps.map((one) => one.code)).toEqual(rehearsed?.steps.map((one) => one.code))
  const stable = (row: Record<string, unknown> = {}) =>
    Object.fromEntries(
      Object.entries(row).filter(([column]) => !/^(id|thread|filled_in|.*_at)$/.test(column)),
    )
  expect(stable(sent?.row ?? {})).toEqual(stable(rehearsed?.row ?? {}))
  expect(await page.stored()).toMatchObject([{ name: 'Vera', state: 'waiting' }])
})

describe('the step that stops a form is the last one, and says why', () => {
  it.each<[string, Partial<Wanted>, string, RegExp]>([
    ['empty', { fields: { ...FIELDS, text: '' } }, 'open', /accepts/],
    ['without a token', { token: 'missing' }, 'token', /missing/],
    ['with the token of another reader', { token: 'foreign' }, 'token', /another reader/],
    ['open for too long', { seconds: 700_000 }, 'token', /expired/],
    ['a reply to no comment', { fields: { ...FIELDS, parent: '99999999' } }, 'parent', /not shown/],
  ])('%s', async (_, wanted, code, sentence) => {
    const walked = await walk(wanted)
    expect(lastOf(walked)).toMatchObject({ code, sentence: expect.stringMatching(sentence) as string })
    expect(walked.walk.submission?.result.outcome).toBe('rejected')
    expect(walked.walk.response.status).toBe(422)
    expect(walked.walk.templates.page).toBe('pages/post')
    expect(walked.next).toBeNull()
  })
  it('on a closed post', async () => {
    await page.withRules('{ closes-after: 1d }', async () => {
      expect(lastOf(await walk())).toMatchObject({ code: 'open', outcome: 'stopped' })
    })
  })
  it('too many from one address', async () => {
    await page.withRules('{ rate: { per-address: 1, per-post: 100, within: 1h } }', async () => {
      await walk({ keep: true, client: '192.0.2.4' })
      const walked = await walk({ client: '192.0.2.4', fields: { ...FIELDS, text: 'Once more.' } })
      expect(lastOf(walked)).toMatchObject({ code: 'rate', outcome: 'stopped' })
      expect(walked.walk.response.status).toBe(429)
    })
  })
})

it.each<[string, Partial<Wanted>, string]>([
  ['the hidden field', { isHoneypotFilled: true }, 'honeypot'],
  ['a fast form', { seconds: 0 }, 'fast'],
  [
    'many links',
    { fields: { ...FIELDS, text: 'https://a.example https://b.example https://c.example' } },
    'links',
  ],
])('has the reason for %s', async (_, wanted, code) => {
  expect((await walk(wanted)).walk.submission?.result.why).toContain(code)
})
it('the workbench’s own browser becomes known once a comment of it is shown', async () => {
  await walk({ keep: true, writer: 'workbench' })
  await page.setState('Vera', 'shown')
  const fields = { ...FIELDS, text: 'And the second hinge, too.' }
  const own = await walk({ writer: 'workbench', fields })
  expect(own.walk.submission?.result).toMatchObject({ outcome: 'shown', why: [] })
  expect(own.next).toMatchObject({ isSeenByWriter: true, isSeenByOthers: true })
  expect((await walk({ fields })).walk.submission?.result.outcome).toBe('waiting')
})
it('a page without a form is named', async () => {
  const { status, answer } = await post({ path: '/posts' })
  expect(status).toBe(404)
  expect(answer).toMatchObject({ problems: [{ code: 'walk-no-form' }] })
})
it('the form of a page is found behind a route that matches and passes on', async () => {
  const routes = await textOf(test.blog, 'routes.yaml')
  const [head = '', ...all] = routes.split(/^(?=- name: )/m)
  const general = all.find((one) => one.startsWith('- name: page\n')) ?? ''
  await saveTexts(test.blog, {
    'routes.yaml': [head, general, ...all.filter((one) => one !== general)].join(''),
  })
  expect((await walk()).walk.response.status).toBe(303)
  await saveTexts(test.blog, { 'routes.yaml': routes })
})
it('recent requests say what became of a form', async () => {
  const form = new URLSearchParams({ ...FIELDS, text: '' })
  await test.readers.request('/posts/moth/comments', {
    method: 'POST',
    body: form.toString(),
    headers: { 'content-type': 'application/x-www-form-urlencoded', origin: 'http://elsewhere.test' },
  })
  const { answer } = await test.api<TrafficItem[]>('GET', '/api/traffic')
  expect(answer[0]).toMatchObject({ method: 'POST', submission: { outcome: 'rejected', why: ['origin'] } })
  await test.read('/posts')
  expect((await test.api<TrafficItem[]>('GET', '/api/traffic')).answer[0]?.submission).toBeNull()
})
