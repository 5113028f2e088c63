// The rules on copies: a faulty definition triggers each, with a witness that is requested here and a fix that works.
import type { Hono } from 'hono'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { Finding } from '../../core/checks/finding.ts'
import { blogListener } from '../reader/listener.ts'
import { runRulesOf } from '../testing/checks.ts'
import { testBlog, type TestBlog } from '../testing/database.ts'
import { applySteps, editPost, saveTexts, textOf } from '../testing/edits.ts'

const RULES = [
  'copy-outlives-change',
  'age-text-in-kept-part',
  'key-grows-without-bound',
  'copy-varies-too-much',
  'copy-never-used',
]
let test: TestBlog
let app: Hono
beforeAll(async () => {
  test = await testBlog()
  app = blogListener(test.blog)
})
afterAll(() => test.close())

async function write(changes: Record<string, string | null>) {
  const saved = await saveTexts(test.blog, changes)
  expect(saved.ok ? [] : saved.problems).toEqual([])
}
const find = async (rule: string, counted = {}): Promise<Finding[]> =>
  (await runRulesOf(test.blog, [rule], counted)).findings
async function apply(finding: Finding | undefined) {
  const applied = await applySteps(test.blog, finding?.fixes[0]?.steps ?? [])
  expect(applied.ok).toBe(true)
}
const get = async (path: string) => {
  const response = await app.request(`http://b.test${path}`)
  const { headers } = response
  return {
    status: response.status,
    isHit: headers.get('cache-status')?.startsWith('esquina-pages; hit') === true,
    text: await response.text(),
  }
}

it('the demo has no findings, and all kinds of copies are tested', async () => {
  const { findings, proven } = await runRulesOf(test.blog, RULES)
  expect(findings).toEqual([])
  expect(proven.map((one) => one.rule).sort()).toEqual(
    RULES.filter((one) => one !== 'copy-never-used').sort(),
  )
})

describe('copy-outlives-change', () => {
  it('names an edit, the address, both texts and the time, and the fix refreshes on change', async () => {
    await write({ 'cache.yaml': 'pages:\n  posts: { refresh: by-age, lifetime: 1h }\n' })
    const [finding, ...others] = await find('copy-outlives-change')
    expect(others).toEqual([])
    expect(finding).toMatchObject({ subject: 'page posts', affects: 'possibly' })
    expect(finding?.title).toContain('for up to 1 hour')
    expect(finding?.witness.expected).toContain('(changed)')
    expect(finding?.witness.actual).not.toContain('(changed)')
    // The same edit, made by hand, at the address of the witness.
    const address = finding?.witness.address ?? ''
    const before = await get(address)
    const edit = (title: string) =>
      editPost(test.blog, 'truing-a-wheel-with-two-spoons', (text) =>
        text.replace(/^title: .*$/m, `title: ${title}`),
      )
    await edit('By hand')
    expect((await get(address)).text).toBe(before.text)
    await apply(finding)
    expect((await get(address)).text).toContain('By hand')
    await edit('Again')
    expect((await get(address)).text).toContain('Again')
    expect(await find('copy-outlives-change')).toEqual([])
  })
  it('finds a fragment, too', async () => {
    await write({ 'cache.yaml': 'fragments:\n  aside: { refresh: by-age }\n' })
    const [finding] = await find('copy-outlives-change')
    expect(finding?.subject).toBe('fragment aside')
    await apply(finding)
    expect(await find('copy-outlives-change')).toEqual([])
  })
})

describe('age-text-in-kept-part', () => {
  it('says how wrong a text gets, and the fix renders it in time', async () => {
    const path = 'templates/pages/archive.liquid'
    const text = await textOf(test.blog, path)
    await write({
      [path]: `${text}{{ now | date: '%H:%M' }}`,
      'cache.yaml': 'pages:\n  archive: { refresh: by-age, lifetime: 1d }\n',
    })
    const [finding] = await find('age-text-in-kept-part')
    expect(finding).toMatchObject({ subject: 'page archive', affects: 'now' })
    expect(finding?.title).toMatch(/is wrong for up to (1 day|2[34] hours)/)
    await get('/archive')
    expect((await get('/archive')).isHit).toBe(true)
    await apply(finding)
    expect(await find('age-text-in-kept-part')).toEqual([])
    await write({ [path]: text })
  })
})

describe('key-grows-without-bound', () => {
  it('pages of a search are not kept, unless a rule says so: then they are found', async () => {
    await get('/search?q=anything')
    expect((await get('/search?q=anything')).isHit).toBe(false)
    await write({ 'cache.yaml': 'pages:\n  search: { refresh: both, lifetime: 1h }\n' })
    const [finding] = await find('key-grows-without-bound')
    expect(finding?.subject).toBe('page search')
    const address = finding?.witness.address ?? ''
    expect((await get(address)).status).toBe(200)
    expect((await get(address)).isHit).toBe(true)
    await apply(finding)
    expect((await get(address)).isHit).toBe(false)
    expect((await get(address)).isHit).toBe(false)
    expect(await find('key-grows-without-bound')).toEqual([])
  })
  it('pages beyond the last one, and page numbers that are none, are never kept', async () => {
    const path = 'queries/all-posts.yaml'
    const text = await textOf(test.blog, path)
    for (const rule of ['empty', 'last']) {
      await write({ [path]: text.replace(/past-the-end: [a-z-]+/, `past-the-end: ${rule}`) })
      for (const address of ['/posts?page=900', '/posts?page=abc', '/posts/moth?comments=x'])
        for (let time = 0; time < 2; time++)
          expect(await get(address), address).toMatchObject({ status: 200, isHit: false })
      await get('/posts?page=2')
      expect((await get('/posts?page=2')).isHit).toBe(true)
      expect(await find('key-grows-without-bound')).toEqual([])
    }
    await write({ [path]: text })
  })
})

describe('copy-varies-too-much', () => {
  it('finds a fragment that varies by what it does not show', async () => {
    const path = 'templates/partials/aside.liquid'
    const text = await textOf(test.blog, path)
    await write({ [path]: text.replace("'aside', ", "'aside', vary: request.path, ") })
    const [finding, ...others] = await find('copy-varies-too-much')
    expect(others).toEqual([])
    expect(finding?.subject).toBe('fragment aside')
    await write({ [path]: text })
    expect(await find('copy-varies-too-much')).toEqual([])
  })
})

describe('copy-never-used', () => {
  it('finds what is stored again and again, and says how often', async () => {
    const [finding] = await find('copy-never-used', {
      aside: { hits: 0, misses: 60 },
      card: { hits: 1, misses: 60 },
    })
    expect(finding?.subject).toBe('fragment aside')
    expect(finding?.witness.actual).toBe('60 copies stored, none used')
    expect(await find('copy-never-used', { aside: { hits: 0, misses: 10 } })).toEqual([])
  })
})
