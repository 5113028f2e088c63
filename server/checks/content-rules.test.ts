// The rules on content: each finds faults in stored rows, with a witness that holds and a fix that works.
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { Finding } from '../../core/checks/finding.ts'
import type { Term } from '../../contract/terms.ts'
import { editPost } from '../testing/edits.ts'
import { runRulesOf } from '../testing/checks.ts'
import { testWorkbench, type TestWorkbench } from '../testing/workbench.ts'

let test: TestWorkbench
beforeAll(async () => (test = await testWorkbench()))
afterAll(() => test.close())

const found = async (rule: string): Promise<Finding[]> => {
  const { findings } = await runRulesOf(test.blog, [rule])
  return findings
}
const proven = async (rule: string) => (await runRulesOf(test.blog, [rule])).proven[0]

/** Applies a fix through the API, as the workbench does. */
async function apply(finding: Finding | undefined) {
  const [fix] = finding?.fixes ?? []
  if (!fix) throw new Error(`There is no fix for ${finding?.title ?? 'nothing'}.`)
  expect((await test.api('POST', '/api/changes', { steps: fix.steps })).status).toBe(200)
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
  it('finds a mistyped name where readers see it, and the similar image', async () => {
    await post('of-signs', 'Look:\n\n![the sign](/media/sgn.svg)')
    const [finding] = await found('image-missing')
    expect(finding).toMatchObject({
      subject: '/media/sgn.svg',
      affects: 'now',
      witness: { address: '/posts/of-signs', actual: '404', expected: '200' },
      place: { document: 'content/posts/of-signs.md' },
    })
    expect((await test.read('/media/sgn.svg')).status).toBe(404)
    expect((await test.read(finding?.witness.address ?? '')).text).toContain('/media/sgn.svg')
    await apply(finding)
    expect(await found('image-missing')).toEqual([])
    expect((await test.read('/posts/of-signs')).text).toContain('src="/media/sign.svg"')
    await remove('of-signs')
  })
  it('finds a deleted image in a page until it is restored', async () => {
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
  it('affects readers later if only a draft shows it, and ignores other sites', async () => {
    await post('later', '![x](/media/none.png) ![y](https://elsewhere.test/none.png)', {})
    expect(await found('image-missing')).toMatchObject([
      { subject: '/media/none.png', affects: 'possibly', witness: { address: null } },
    ])
    await remove('later')
  })
})

describe('internal-link-dead', () => {
  it('finds a link to an unpublished post', async () => {
    await post(
      'with-links',
      '[soon](/posts/an-evening-of-lamps), [moth](/posts/moth), [away](https://x.test/)',
    )
    const [finding, ...others] = await found('internal-link-dead')
    expect(others).toEqual([])
    expect(finding).toMatchObject({
      subject: '/posts/an-evening-of-lamps',
      affects: 'now',
      witness: { address: '/posts/an-evening-of-lamps', actual: '404', expected: '200' },
      place: { document: 'content/posts/with-links.md', line: 7 },
    })
    expect(finding?.detail).toContain('“An evening of lamps”')
    await remove('with-links')
  })
  it('follows several redirects of an address', async () => {
    await post('with-steps', '[a](/archive/2026/09?page=1), [b](/archive/2026/09?page=099)')
    expect((await found('internal-link-dead')).map((one) => one.subject)).toEqual([
      '/archive/2026/09?page=099',
    ])
    await remove('with-steps')
  })
  it('finds a missing heading, and offers the most similar one', async () => {
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
    await apply(finding)
    expect(await found('internal-link-dead')).toEqual([])
    await remove('headings')
    await remove('to-headings')
  })
  it('fixes a link in a page', async () => {
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
    await apply(finding)
    expect(await found('internal-link-dead')).toEqual([])
    expect((await test.read('/about/people')).text).toContain('href="/open-days/house-rules"')
  })
})

describe('category-empty', () => {
  it('finds a new category without posts, fixed by deleting it', async () => {
    await test.api('POST', '/api/terms', { kind: 'category', name: 'Umbrellas' })
    const [finding] = await found('category-empty')
    expect(finding).toMatchObject({
      subject: 'umbrellas',
      affects: 'now',
      witness: { address: '/category/umbrellas', actual: '0 published' },
    })
    const { status, text } = await test.read('/category/umbrellas')
    expect([status, text.includes('class="card"')]).toEqual([200, false])
    await apply(finding)
    expect(await found('category-empty')).toEqual([])
  })
  it('does not offer to delete a category whose only post is a draft', async () => {
    await test.api('POST', '/api/terms', { kind: 'category', name: 'Umbrellas' })
    await post('an-umbrella', 'x', { category: 'umbrellas' })
    const [finding] = await found('category-empty')
    expect(finding).toMatchObject({ subject: 'umbrellas', fixes: [] })
    await remove('an-umbrella')
    const term = (await test.api<Term>('GET', '/api/term?kind=category&slug=umbrellas')).answer
    await test.api('POST', '/api/term/delete?kind=category&slug=umbrellas', { version: term.version })
  })
})

describe('draft-listed', () => {
  it('finds the drafts in a listing without “published”, fixed by the condition', async () => {
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
    const [finding] = await found('draft-listed')
    expect(finding).toMatchObject({
      subject: 'all-posts',
      affects: 'now',
      place: { document: 'queries/all-posts.yaml' },
    })
    const title = /“([^”]+)”/.exec(finding?.witness.text ?? '')?.[1] ?? ''
    expect(title).not.toBe('')
    expect((await test.read(finding?.witness.address ?? '')).text).toContain(title)
    await apply(finding)
    expect(await found('draft-listed')).toEqual([])
    expect((await proven('draft-listed'))?.count).toBe('7 unpublished posts')
  })
})

describe('slug-not-canonical', () => {
  it('finds slugs that the settings do not allow any more', async () => {
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
      witness: { address: '/posts/moth', actual: 'moth', expected: 'moth-2' },
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
  it('finds an unnecessary number in a slug that was never public', async () => {
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

describe('title-duplicate', () => {
  it('finds two published posts with one title, whatever its capitals', async () => {
    expect(await found('title-duplicate')).toEqual([])
    await post('again', 'Text.', { title: 'MOTH', published: 'now' })
    expect(await found('title-duplicate')).toMatchObject([
      { title: expect.stringMatching(/is the title of 2 posts$/i) as string, affects: 'now' },
    ])
    await remove('again')
  })

  it('two posts of a category with one title are not taken for one that is related to itself', async () => {
    await post('same-title', 'Text.', {
      title: 'What the chain checker does not tell you',
      published: 'now',
      category: 'bicycles',
    })
    expect(await found('related-includes-itself')).toEqual([])
    await remove('same-title')
  })
})

describe('term-empty', () => {
  it('finds a tag that only drafts have, at its address', async () => {
    await test.api('POST', '/api/terms', { kind: 'tag', name: 'Thimbles' })
    const [finding] = await found('term-empty')
    expect(finding).toMatchObject({
      title: 'Tag “Thimbles” has no published posts',
      witness: { address: '/tag/thimbles', actual: '0 posts' },
    })
    await post('about-thimbles', 'Text.', { tags: ['thimbles'], published: 'now' })
    expect(await found('term-empty')).toEqual([])
    await remove('about-thimbles')
  })
})

describe('HTML in texts', () => {
  it('that readers do not get is named, with the post that contains it', async () => {
    const added =
      '<iframe src="https://video.example/1"></iframe>\n\n<a href="javascript:alert(1)" onclick="x()">Go</a> `<video>` <del>old</del>'
    await editPost(test.blog, 'moth', (text: string) => `${text}\n\n${added}\n`)
    const [finding, ...others] = await found('html-removed')
    expect(others).toEqual([])
    expect(finding).toMatchObject({
      subject: 'content/posts/moth.md',
      affects: 'now',
      witness: { address: '/posts/moth' },
      place: { document: 'content/posts/moth.md' },
    })
    expect(finding?.detail).toBe(
      'Removed: <iframe>, src="https://video.example/1" of <iframe>, href="javascript:alert(1)" of <a>, onclick of <a>',
    )
    const page = (await test.read('/posts/moth')).text
    expect(page).not.toContain('<iframe')
    expect(page).toContain('&lt;video&gt;')
    await editPost(test.blog, 'moth', (text: string) => text.replace(added, ''))
    expect(await found('html-removed')).toEqual([])
  })
})

describe('markdown-as-typed', () => {
  it('finds what readers see as it was typed, and what a block of code swallows', async () => {
    expect(await found('markdown-as-typed')).toEqual([])
    await post('typed', 'See [the sign] (/posts).\n\n![](/media/sign.svg)\n\n```\ncode\n\n## All the rest')
    const findings = await found('markdown-as-typed')
    expect(findings.map((one) => one.title)).toEqual([
      '“About typed” has a link that readers see as it was typed',
      '“About typed” has an image without alternative text',
      '“About typed” has a block of code that is not closed',
    ])
    expect(findings[0]).toMatchObject({
      affects: 'now',
      witness: { address: '/posts/typed' },
      place: { document: 'content/posts/typed.md' },
    })
    expect((await test.read('/posts/typed')).text).toContain('[the sign] (/posts)')
    await remove('typed')
    expect(await proven('markdown-as-typed')).toMatchObject({ rule: 'markdown-as-typed' })
  })
})
