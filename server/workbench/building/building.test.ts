// A blog is built with the steps alone: each is drafted, applied, and then asked for.
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { AnswerOf } from '../../../contract/operations.ts'
import { DRAFTED_STEPS, FIRST_STEPS, type DraftedStep } from '../../../core/shapes/building.ts'
import { testWorkbench, type TestWorkbench } from '../../testing/workbench.ts'

type States = AnswerOf<'GET /api/building'>
type Draft = AnswerOf<'POST /api/building/draft'>

let test: TestWorkbench
beforeAll(async () => (test = await testWorkbench('blank')))
afterAll(() => test.close())

const states = async (workbench = test) => (await workbench.api<States>('GET', '/api/building')).answer
const stateOf = async (id: string) => (await states()).steps.find((one) => one.id === id)
const draft = async (step: DraftedStep, workbench = test) =>
  await workbench.api<Draft>('POST', '/api/building/draft', { step })
async function take(step: DraftedStep) {
  const { answer } = await draft(step)
  const applied = await test.api<{ undo: unknown[] }>('POST', '/api/changes', { steps: answer.steps })
  expect([step, applied.status]).toEqual([step, 200])
  return applied.answer.undo
}

describe('a new blog', () => {
  it('has none of the steps', async () => {
    const { isNew, steps } = await states()
    expect(isNew).toBe(true)
    expect(steps.map((one) => [one.id, one.isDone])).toEqual(
      ['content', ...DRAFTED_STEPS].map((id) => [id, false]),
    )
  })

  it('loses sample posts when they are undone under Changes, and can get them again', async () => {
    await test.api('POST', '/api/building/samples')
    const { answer } = await test.api<{ steps: { id: string }[] }>('GET', '/api/steps')
    const undone = await test.api('POST', '/api/step/undo', { id: answer.steps[0]?.id })
    expect(undone.status).toBe(200)
    expect(await stateOf('content')).toMatchObject({ isDone: false, evidence: null })
    expect((await test.api<unknown[]>('GET', '/api/terms?kind=category')).answer).toEqual([])
  })

  it('gets sample posts once, and without content only', async () => {
    const added = await test.api<{ posts: number; drafts: number }>('POST', '/api/building/samples')
    expect([added.status, added.answer]).toMatchObject([200, { posts: 12, drafts: 2 }])
    expect(await stateOf('content')).toMatchObject({ isDone: true, evidence: '10 published posts, 2 drafts' })
    const again = await test.api('POST', '/api/building/samples')
    expect([again.status, again.answer['code']]).toEqual([409, 'samples-not-empty'])
  })

  it('is built step by step, and each is proven by the blog’s answers', async () => {
    const evidence: Record<string, string | null | undefined> = {}
    for (const step of DRAFTED_STEPS) {
      // Queries of the other steps keep what is not published out from the start.
      if (step !== 'published') {
        expect((await stateOf(step))?.isDone, step).toBe(false)
        await take(step)
      }
      const state = await stateOf(step)
      expect([step, state?.isDone, state?.evidence]).toEqual([step, true, expect.any(String)])
      evidence[step] = state?.evidence
    }
    expect(evidence).toMatchObject({
      layout: expect.stringMatching(/^\d\.\d kB of CSS, contrast at least (4\.[5-9]|[5-9]\.\d)/) as string,
      list: '/posts answers 200 with 10 of 10 posts',
      post: expect.stringMatching(/^\/posts\/[\w-]+ answers 200, an unknown slug 404$/) as string,
      published: 'The address of a draft answers 404, the list shows no draft',
      pages: expect.stringMatching(/^Page 2 answers 200, page abc (200|404), page 999 404$/) as string,
      categories: expect.stringMatching(
        /^\/category\/[\w-]+ answers 200, and cards link to categories$/,
      ) as string,
      home: '/ answers 200 with the latest posts, and links to /about',
      comments: expect.stringMatching(/has the form; an empty comment is answered with 4\d\d$/) as string,
      cache: expect.stringMatching(/^\/posts takes [\d.]+ ms with copies, [\d.]+ ms without$/) as string,
      machines: expect.stringMatching(
        /^\/feed.atom answers 200 with 5 posts, \/sitemap.xml 200 with \d+ addresses, \/robots.txt 200$/,
      ) as string,
      authors: expect.stringMatching(
        /^\/author\/[\w-]+ answers 200, and \/posts\/[\w-]+ links to its author$/,
      ) as string,
      tags: expect.stringMatching(
        /^\/tag\/[\w-]+ answers 200, and \/posts\/[\w-]+ (links|does not link) to a tag$/,
      ) as string,
      archive: expect.stringMatching(/^\/archive answers 200, \/archive\/\d{4}\/\d+ 200$/) as string,
      search: expect.stringMatching(
        /^A search for “\S+” answers 200 with [1-9]\d* posts?, a search without matches 200$/,
      ) as string,
      related: expect.stringMatching(/^\/posts\/[\w-]+ shows \d related posts?$/) as string,
      neighbours: expect.stringMatching(
        /^\/posts\/[\w-]+, the newest post, links to an older one, and to no newer one$/,
      ) as string,
      popular: '/ shows 5 posts by their comments',
      aside: expect.stringMatching(
        /^\/posts answers 200, and its aside shows \d+ categories, \d+ months?, \d comments?$/,
      ) as string,
      numbered: expect.stringMatching(
        /^\/p\/\d+ answers 301 and leads to \/posts\/[\w-]+; the number of an unpublished post answers 404$/,
      ) as string,
    })
    expect((await states()).isNew).toBe(false)
  })

  it('has no findings then', { timeout: 120_000 }, async () => {
    const run = await test.checks.run()
    expect(run.findings.map((one) => `${one.rule}: ${one.title}`)).toEqual([])
  })

  it('accepts a comment on a page without scripts', async () => {
    const page = await test.read('/posts/zip-surgery')
    expect(page.text).toContain('<form id="say"')
    expect(page.text).toContain('<script src="/assets/comments.js')
  })

  it('loses a step that is undone', async () => {
    const [before] = [await stateOf('cache')]
    expect(before?.isDone).toBe(true)
    const { answer } = await test.api<{ text: string; version: number }>(
      'GET',
      '/api/document?path=templates/partials/card.liquid',
    )
    const without = answer.text.replace(/\{% (end)?fragment[^%]*%\}\n/g, '')
    await test.api('PUT', '/api/document', {
      path: 'templates/partials/card.liquid',
      text: without,
      version: answer.version,
    })
    expect((await stateOf('cache'))?.isDone).toBe(false)
    const undo = await take('cache')
    expect((await stateOf('cache'))?.isDone).toBe(true)
    expect((await test.api('POST', '/api/changes', { steps: undo })).status).toBe(200)
    expect((await stateOf('cache'))?.isDone).toBe(false)
  })
})

describe('the evidence', () => {
  it('is not that of a step whose query shows drafts', async () => {
    const path = 'queries/all-posts.yaml'
    const { answer } = await test.api<{ text: string; version: number }>('GET', `/api/document?path=${path}`)
    const text = answer.text.replace('where: [published]\n', '')
    expect((await test.api('PUT', '/api/document', { path, text, version: answer.version })).status).toBe(200)
    expect(await stateOf('published')).toMatchObject({
      isDone: false,
      evidence: 'all-posts also returns drafts',
    })
    await take('published')
    expect((await stateOf('published'))?.isDone).toBe(true)
  })
  it('is given for the demo, which has all steps but three', async () => {
    const demo = await testWorkbench()
    const { isNew, steps } = await states(demo)
    const open = steps.filter((one) => !one.isDone).map((one) => one.id)
    expect([isNew, open]).toEqual([false, ['neighbours', 'popular', 'numbered']])
    for (const step of FIRST_STEPS) expect((await draft(step, demo)).answer.steps).toEqual([])
    await demo.close()
  })
})
