// The rules under Content: each finds what is wrong in real rows, with a witness that holds and a mend that mends.
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { Finding, Mend } from '../../core/checks/finding.ts'
import type { Term } from '../../contract/operations.ts'
import { testWorkbench, type TestWorkbench } from '../testing/workbench.ts'

let test: TestWorkbench
beforeAll(async () => (test = await testWorkbench()))
afterAll(() => test.close())

const found = async (rule: string): Promise<Finding[]> => {
  const { findings, runs } = await test.checks.run()
  expect(runs.filter((one) => one.failed !== null)).toEqual([])
  return findings.filter((one) => one.rule === rule)
}
const proven = async (rule: string) => (await test.checks.run()).proven.find((one) => one.rule === rule)

/** Applies a mend through the API, as the workbench does. */
async function apply(finding: Finding | undefined, label?: string) {
  const mend: Mend | undefined = label ? finding?.mends.find((one) => one.label === label) : finding?.mends[0]
  if (!mend) throw new Error(`no such mend: ${JSON.stringify(finding?.mends.map((one) => one.label))}`)
  for (const { document, text, before } of mend.changes) {
    const { answer } = await test.api<{ version: number; text: string }>(
      'GET',
      `/api/document?path=${document}`,
    )
    expect(before).toBe(answer.text)
    const saved = await test.api('PUT', '/api/document', { path: document, text, version: answer.version })
    expect(saved.status).toBe(200)
  }
  if (mend.slug) expect((await test.api('PUT', '/api/slug', mend.slug)).status).toBe(200)
  if (mend.remove) {
    const { kind, slug, version } = mend.remove
    expect((await test.api('POST', `/api/term/delete?kind=${kind}&slug=${slug}`, { version })).status).toBe(
      200,
    )
  }
}
const post = async (slug: string, body: string, more: object = { published: 'now' }) => {
  const made = await test.api('POST', '/api/posts', {
    matter: { title: `About ${slug}`, slug, ...more },
    body,
  })
  expect(made.status).toBe(200)
}
const remove = async (slug: string) => {
  const { answer } = await test.api<{ version: number }>('GET', `/api/post?slug=${slug}`)
  await test.api('POST', '/api/posts/delete', { posts: [{ slug, version: answer.version }] })
}

describe('image-missing', () => {
  it('a name that was mistyped: where a reader sees it, and the image that was meant', async () => {
    await post('of-signs', 'Look:\n\n![the sign](/media/sgn.svg)')
    const [finding] = await found('image-missing')
    expect(finding).toMatchObject({
      subject: '/media/sgn.svg',
      affects: 'now',
      witness: { address: '/posts/of-signs', got: '404', expected: '200' },
      place: { document: 'content/posts/of-signs.md' },
    })
    expect((await test.read('/media/sgn.svg')).status).toBe(404)
    expect((await test.read(finding?.witness.address ?? '')).text).toContain('/media/sgn.svg')
    await apply(finding, 'Show /media/sign.svg')
    expect(await found('image-missing')).toEqual([])
    expect((await test.read('/posts/of-signs')).text).toContain('src="/media/sign.svg"')
    await remove('of-signs')
  })
  it('an image that was deleted, in a page; put back, all is well', async () => {
    const { answer } = await test.api<{ version: number; body: string }>('GET', '/api/page?path=about')
    const page = { title: 'About us', inNavigation: true }
    await test.api('PUT', '/api/page?path=about', {
      ...page,
      version: answer.version,
      body: `${answer.body}\n\n![a cup](/media/cup-open-days-1.svg)`,
    })
    expect(await found('image-missing')).toEqual([])
    const gone = await test.api<{ deleted: number }>('DELETE', '/api/image?name=cup-open-days-1.svg')
    expect(await found('image-missing')).toMatchObject([
      { subject: '/media/cup-open-days-1.svg', witness: { address: '/about' } },
    ])
    await test.api('POST', '/api/deleted/restore', { deleted: gone.answer.deleted })
    expect(await found('image-missing')).toEqual([])
    await test.api('PUT', '/api/page?path=about', { ...page, version: answer.version + 1, body: answer.body })
  })
  it('what only a draft shows is possible, not now; pictures elsewhere are not asked for', async () => {
    await post('later', '![x](/media/none.png) ![y](https://elsewhere.test/none.png)', {})
    expect(await found('image-missing')).toMatchObject([
      { subject: '/media/none.png', affects: 'possibly', witness: { address: null } },
    ])
    await remove('later')
  })
})

describe('internal-link-dead', () => {
  it('a post that is not published, said as such', async () => {
    await post(
      'with-links',
      '[soon](/posts/an-evening-of-lamps), [moth](/posts/moth), [away](https://x.test/)',
    )
    const [finding, ...others] = await found('internal-link-dead')
    expect(others).toEqual([])
    expect(finding).toMatchObject({
      subject: '/posts/an-evening-of-lamps',
      affects: 'now',
      witness: { address: '/posts/an-evening-of-lamps', got: '404', expected: '200' },
      place: { document: 'content/posts/with-links.md', line: 7 },
    })
    expect(finding?.detail).toContain('“An evening of lamps” is not published')
    await remove('with-links')
  })
  it('a link that other forms of an address lead to, step by step, is followed to its end', async () => {
    await post('with-steps', '[a](/archive/2026/09?page=1), [b](/archive/2026/09?page=099)')
    expect((await found('internal-link-dead')).map((one) => one.subject)).toEqual([
      '/archive/2026/09?page=099',
    ])
    await remove('with-steps')
  })
  it('a heading that its page does not have; the nearest one is offered', async () => {
    await post('headings', '## Why it whistles\n\nText.')
    await post(
      'to-headings',
      '[there](/posts/headings#h-why-it-whistle) [fine](/posts/headings#h-why-it-whistles)',
    )
    const [finding] = await found('internal-link-dead')
    expect(finding).toMatchObject({
      witness: { address: '/posts/headings', expected: '#h-why-it-whistle' },
      place: { document: 'content/posts/to-headings.md' },
    })
    expect((await test.read('/posts/headings')).text).not.toContain('id="h-why-it-whistle"')
    await apply(finding, 'Lead it to #h-why-it-whistles')
    expect(await found('internal-link-dead')).toEqual([])
    await remove('headings')
    await remove('to-headings')
  })
  it('a link in a page is mended there', async () => {
    const before = (await test.api<{ version: number; body: string }>('GET', '/api/page?path=about/people'))
      .answer
    await test.api('PUT', '/api/page?path=about/people', {
      title: 'The people',
      inNavigation: false,
      version: before.version,
      body: `${before.body}\n\n[the rules](/open-days/hose-rules)`,
    })
    const [finding] = await found('internal-link-dead')
    expect(finding).toMatchObject({ place: { document: 'content/pages/about/people.md' } })
    await apply(finding, 'Lead it to /open-days/house-rules')
    expect(await found('internal-link-dead')).toEqual([])
    expect((await test.read('/about/people')).text).toContain('href="/open-days/house-rules"')
  })
})

describe('category-empty', () => {
  it('a new one that nothing has; deleting it mends it', async () => {
    await test.api('POST', '/api/terms', { kind: 'category', name: 'Umbrellas' })
    const [finding] = await found('category-empty')
    expect(finding).toMatchObject({
      subject: 'umbrellas',
      affects: 'now',
      witness: { address: '/category/umbrellas', got: '0 published' },
    })
    const { status, text } = await test.read('/category/umbrellas')
    expect([status, text.includes('class="card"')]).toEqual([200, false])
    await apply(finding)
    expect(await found('category-empty')).toEqual([])
  })
  it('one whose only post is a draft waits, and is not offered for deletion', async () => {
    await test.api('POST', '/api/terms', { kind: 'category', name: 'Umbrellas' })
    await post('an-umbrella', 'x', { category: 'umbrellas' })
    const [finding] = await found('category-empty')
    expect(finding).toMatchObject({ because: 'What belongs to it is not published yet.', mends: [] })
    await remove('an-umbrella')
    const term = (await test.api<Term>('GET', '/api/term?kind=category&slug=umbrellas')).answer
    await test.api('POST', '/api/term/delete?kind=category&slug=umbrellas', { version: term.version })
  })
})

describe('published-without-date', () => {
  it('a listing that forgot “published”: the draft, its place there, and the condition that mends it', async () => {
    const before = (
      await test.api<{ text: string; version: number }>('GET', '/api/document?path=queries/all-posts.yaml')
    ).answer
    const faulty = before.text.replace(/^where:.*\n/m, '')
    const saved = await test.api('PUT', '/api/document', {
      path: 'queries/all-posts.yaml',
      text: faulty,
      version: before.version,
    })
    expect([saved.status, saved.answer['problems']]).toEqual([200, undefined])
    const [finding] = await found('published-without-date')
    expect(finding).toMatchObject({
      subject: 'all-posts',
      affects: 'now',
      place: { document: 'queries/all-posts.yaml' },
    })
    const title = /“([^”]+)”/.exec(finding?.witness.text ?? '')?.[1] ?? ''
    expect((await test.read(finding?.witness.address ?? '')).text).toContain(title)
    await apply(finding, 'Add “published” to the query')
    expect(await found('published-without-date')).toEqual([])
    expect((await proven('published-without-date'))?.count).toBe('7 posts')
  })
})

describe('slug-not-canonical', () => {
  it('slugs that the settings no longer allow', async () => {
    const settings = (
      await test.api<{ text: string; version: number }>('GET', '/api/document?path=blog.yaml')
    ).answer
    await test.api('PUT', '/api/document', {
      path: 'blog.yaml',
      text: settings.text.replace('  max-length: 80', '  max-length: 80\n  reserved: [moth]'),
      version: settings.version,
    })
    const [finding] = await found('slug-not-canonical')
    expect(finding).toMatchObject({
      subject: 'post moth',
      witness: { address: '/posts/moth', got: 'moth', expected: 'moth-2' },
      detail: '“moth” is reserved in the settings.',
    })
    await apply(finding)
    expect(await found('slug-not-canonical')).toEqual([])
    expect(await test.read('/posts/moth')).toMatchObject({ status: 301, to: '/posts/moth-2' })
    await test.api('PUT', '/api/document', {
      path: 'blog.yaml',
      text: settings.text,
      version: settings.version + 1,
    })
    await test.api('PUT', '/api/slug', { kind: 'post', from: 'moth-2', to: 'moth' })
  })
  it('a number for nothing, as long as nobody has seen the address', async () => {
    const make = async () =>
      (await test.api<{ slug: string }>('POST', '/api/posts', { matter: { title: 'Twice told' }, body: 'x' }))
        .answer.slug
    expect([await make(), await make()]).toEqual(['twice-told', 'twice-told-2'])
    expect(await found('slug-not-canonical')).toEqual([])
    await remove('twice-told')
    const [finding] = await found('slug-not-canonical')
    expect(finding).toMatchObject({
      subject: 'post twice-told-2',
      affects: 'possibly',
      witness: { expected: 'twice-told' },
    })
    await apply(finding)
    expect(await found('slug-not-canonical')).toEqual([])
    await remove('twice-told')
  })
})
