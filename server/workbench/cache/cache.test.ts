// The Cache area over the API.
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type {
  AuditReport,
  CopyItem,
  CopyRehearsal,
  EdgeReport,
  RehearsedChange,
  RuleItem,
} from '../../../contract/cache.ts'
import { editPost, saveTexts } from '../../testing/edits.ts'
import { testWorkbench, type TestWorkbench } from '../../testing/workbench.ts'

let test: TestWorkbench
beforeAll(async () => (test = await testWorkbench()))
afterAll(() => test.close())

const copies = async () =>
  (await test.api<{ copies: CopyItem[]; bytes: number }>('GET', '/api/copies')).answer

it('lists what is stored, with what it depends on, and its size', async () => {
  expect(await copies()).toEqual({ copies: [], bytes: 0, processes: 1, shared: null })
  await test.read('/posts')
  const { copies: stored, bytes } = await copies()
  const cards = stored.filter((one) => one.name === 'card')
  expect(cards).toHaveLength(6)
  for (const one of stored) {
    expect(one.bytes).toBeGreaterThan(0)
    expect(one.ageMilliseconds).toBeGreaterThanOrEqual(0)
    expect(one.remainingMilliseconds).toBeGreaterThan(0)
    expect(one.dependsOn.length).toBeGreaterThan(0)
  }
  for (const card of cards) expect(card.dependsOn.filter((one) => /^posts:\d+$/.test(one))).toHaveLength(1)
  expect(bytes).toBeGreaterThanOrEqual(stored.reduce((sum, one) => sum + one.bytes, 0))
})

it('no longer lists what a save has purged, and the save reports it', async () => {
  const { copies: before } = await copies()
  const saved = await editPost(test.blog, 'truing-a-wheel-with-two-spoons', (text) =>
    text.replace(/^title: .*$/m, 'title: Another title'),
  )
  const purged = saved.ok ? saved.purged.map((one) => one.key) : []
  expect(saved.ok && saved.purged.map((one) => one.why)).toContainEqual(
    expect.stringMatching(/^post \d+: .*title.* changed$/),
  )
  const { copies: after } = await copies()
  expect(after.map((one) => one.key)).toEqual(
    before.map((one) => one.key).filter((key) => !purged.includes(key)),
  )
})

it('is cleared, and says how much was dropped', async () => {
  await test.read('/posts')
  const { copies: before } = await copies()
  expect((await test.api('DELETE', '/api/copies')).answer).toEqual({ dropped: before.length })
  expect(await copies()).toEqual({ copies: [], bytes: 0, processes: 1, shared: null })
  expect((await test.api('DELETE', '/api/copies')).answer).toEqual({ dropped: 0 })
})

describe('a copy', () => {
  it('shows its text, and is dropped alone', async () => {
    await test.read('/posts')
    const { copies: stored } = await copies()
    const page = stored.find((one) => one.address === '/posts')
    const query = `/api/copy?key=${encodeURIComponent(page?.key ?? '')}`
    const { answer } = await test.api<{ text: string }>('GET', query)
    expect(answer.text).toContain('</html>')
    expect((await test.api('DELETE', query)).answer).toEqual({ dropped: 1 })
    expect((await test.api('GET', query)).answer).toEqual({ text: null })
    expect((await copies()).copies).toHaveLength(stored.length - 1)
  })
})

const rules = async () =>
  (await test.api<{ rules: RuleItem[]; limitBytes: number }>('GET', '/api/cache/rules')).answer.rules
const ruleOf = async (name: string) => (await rules()).find((one) => one.name === name)
const setRules = async (text: string | null) => {
  const saved = await saveTexts(test.blog, { 'cache.yaml': text })
  expect(saved.ok).toBe(true)
}

describe('rules', () => {
  it('are listed with what they show, and what refreshes them', async () => {
    const listed = await rules()
    expect(listed.map((one) => one.name)).toEqual(
      expect.arrayContaining(['aside', 'card', 'posts', 'post', 'page']),
    )
    const card = listed.find((one) => one.name === 'card')
    expect(card).toMatchObject({
      kind: 'fragment',
      oneCopyFor: ['post'],
      refresh: 'both',
      lifetime: 86_400_000,
      stalest: 0,
    })
    expect(card?.cells).toMatchObject({
      'post-text': 'refreshed',
      'post-slug': 'refreshed',
      'page-tree': 'none',
    })
    const post = listed.find((one) => one.name === 'post')
    expect(post).toMatchObject({
      refresh: 'on-change',
      lifetime: 604_800_000,
      oneCopyFor: ['/posts/:slug', '?comments', '?reply'],
    })
    expect(post?.cells).toMatchObject({ comment: 'refreshed', 'page-tree': 'refreshed' })
    // Nothing is refreshed by age only.
    for (const one of listed) expect(Object.values(one.cells ?? {})).not.toContain('gap')
    // A listing changes when a scheduled post becomes due; a page of the tree does not.
    expect(listed.find((one) => one.name === 'posts')?.cells?.time).toBe('refreshed')
  })

  it('count answers from copies, and what rendering takes', async () => {
    await test.api('DELETE', '/api/copies')
    const before = await ruleOf('archive')
    for (let time = 0; time < 4; time++) await test.read('/archive')
    const after = await ruleOf('archive')
    expect([(after?.hits ?? 0) - (before?.hits ?? 0), (after?.misses ?? 0) - (before?.misses ?? 0)]).toEqual([
      3, 1,
    ])
    expect(after?.copies).toBe(1)
    expect(after?.savedMilliseconds).toBeGreaterThan(0)
  })

  it('a fragment that is refreshed by age only is a gap, and the pages with it are in part', async () => {
    await setRules('fragments:\n  aside: { refresh: by-age }\n')
    expect(await ruleOf('aside')).toMatchObject({
      stalest: 3_600_000,
      cells: { 'post-text': 'gap', comment: 'gap', 'page-tree': 'none' },
    })
    expect((await ruleOf('home'))?.cells).toMatchObject({ 'post-text': 'part', 'page-tree': 'refreshed' })
    await setRules(null)
  })
})

const rehearse = async (change: RehearsedChange) =>
  (await test.api<CopyRehearsal>('POST', '/api/cache/rehearse', { change })).answer
const SLUG = 'truing-a-wheel-with-two-spoons'

describe('a rehearsed change', () => {
  it('of a title names what is refreshed and keeps the rest, all of which would be rendered as it is', async () => {
    const result = await rehearse({ kind: 'title', post: SLUG, to: 'Truing, gently' })
    expect(result.what).toContain('Truing, gently')
    expect(result.stale).toEqual([])
    expect(result.keptButDifferent).toEqual([])
    expect(result.kept).toBeGreaterThan(result.refreshed.length)
    const addresses = result.refreshed.map((one) => one.address)
    expect(addresses).toEqual(expect.arrayContaining(['/', '/posts', `/posts/${SLUG}`]))
    expect(result.refreshed.filter((one) => one.kind === 'fragment').map((one) => one.name)).toContain('card')
    // Nothing was saved.
    expect((await test.read(`/posts/${SLUG}`)).text).not.toContain('Truing, gently')
  })

  it('names what goes on showing the old text, with both texts, for how long, and where', async () => {
    await setRules(
      'fragments:\n  aside: { refresh: by-age }\npages:\n  archive: { refresh: by-age, lifetime: 1h }\n',
    )
    const result = await rehearse({ kind: 'title', post: SLUG, to: 'Truing, gently' })
    await setRules(null)
    const names = result.stale.map((one) => one.name)
    expect(names).toContain('archive')
    const archive = result.stale.find((one) => one.name === 'archive')
    expect(archive?.before).not.toContain('Truing, gently')
    expect(archive?.after).toContain('Truing, gently')
    expect(archive?.addresses).toEqual(['/archive'])
    expect(archive?.longestMilliseconds).toBeGreaterThan(3_500_000)
    expect(archive?.longestMilliseconds).toBeLessThanOrEqual(3_600_000)
  })

  it.each<[RehearsedChange, string]>([
    [{ kind: 'slug', post: SLUG }, 'posts'],
    [{ kind: 'unpublish', post: SLUG }, 'posts'],
    [{ kind: 'category', post: SLUG, category: 'textiles' }, 'category'],
    [{ kind: 'comment', post: SLUG }, 'post'],
    [{ kind: 'rename', category: 'bicycles' }, 'category'],
    [{ kind: 'move-page', page: 'about' }, 'page'],
    [{ kind: 'time', until: '2040-01-01T00:00:00Z' }, 'posts'],
    [{ kind: 'template', template: 'templates/partials/card.liquid' }, 'posts'],
    [{ kind: 'setting', to: 'Another café' }, 'home'],
  ])('%j refreshes, and leaves nothing old', async (change, refreshed) => {
    const result = await rehearse(change)
    expect(result.refreshed.map((one) => one.name)).toContain(refreshed)
    expect([result.keptButDifferent, result.stale]).toEqual([[], []])
  })

  it('of what does not exist is refused', async () => {
    expect(
      (await test.api('POST', '/api/cache/rehearse', { change: { kind: 'title', post: 'nothing-here' } }))
        .status,
    ).toBe(404)
    expect(
      (await test.api('POST', '/api/cache/rehearse', { change: { kind: 'slug', post: SLUG, to: 'moth' } }))
        .status,
    ).toBe(422)
    expect((await test.api('POST', '/api/cache/rehearse', { change: { kind: 'burn' } })).status).toBe(400)
  })
})

it('returns the state of the edge cache, which is off without a rule', async () => {
  const report = async () => (await test.api<EdgeReport>('GET', '/api/cache/edge')).answer
  expect(await report()).toEqual({ lifetimeMilliseconds: null, purger: null, standIn: null })
  await setRules('edge: { lifetime: 10m }\n')
  expect((await report()).lifetimeMilliseconds).toBe(600_000)
  await setRules(null)
})

describe('the audit', () => {
  const audited = async () => {
    expect((await test.api('POST', '/api/cache/audit')).answer).toEqual({ started: true })
    for (;;) {
      const { answer } = await test.api<AuditReport>('GET', '/api/cache/audit')
      if (answer.state !== 'running') return answer
      await new Promise((done) => setTimeout(done, 20))
    }
  }
  it('finds that all copies are what would be rendered now', async () => {
    for (const path of ['/', '/posts', '/archive', `/posts/${SLUG}`]) await test.read(path)
    const report = await audited()
    expect(report).toMatchObject({ state: 'done', byAge: 0, different: [] })
    expect(report.state === 'done' && report.same).toBeGreaterThan(8)
  })
  it('finds a copy that is not, and what is refreshed by age', async () => {
    const [key, copy] =
      [...test.blog.fragments.entries()].find(([, one]) => one.answer?.target === '/archive') ?? []
    if (key === undefined || !copy) throw new Error('It is not stored.')
    const content = copy.content.map((one) => one.replace('Cobble Lane', 'Marble Lane'))
    test.blog.fragments.set(key, { ...copy, content }, test.blog.fragments.generation)
    const report = await audited()
    const different = report.state === 'done' ? report.different : []
    expect(different).toHaveLength(1)
    expect(different[0]).toMatchObject({ kind: 'page', name: 'archive', address: '/archive' })
    expect(different[0]?.before).toContain('Marble')
    expect(different[0]?.after).toContain('Cobble')
    await test.api('DELETE', '/api/copies')
    await setRules('pages:\n  posts: { refresh: by-age, lifetime: 1h }\n')
    await test.read('/posts')
    await editPost(test.blog, SLUG, (text) => text.replace(/^title: .*$/m, 'title: Changed for the audit'))
    expect(await audited()).toMatchObject({ byAge: 1, different: [] })
    await setRules(null)
  })
  it('is cancelled', async () => {
    for (const path of ['/', '/posts', '/archive', '/about', '/open-days']) await test.read(path)
    await test.api('POST', '/api/cache/audit')
    expect((await test.api('POST', '/api/cache/audit')).answer).toEqual({ started: false })
    expect((await test.api('DELETE', '/api/cache/audit')).answer).toEqual({ cancelled: true })
    expect((await test.api<AuditReport>('GET', '/api/cache/audit')).answer).toEqual({
      state: 'failed',
      message: 'Cancelled.',
    })
  })
})
