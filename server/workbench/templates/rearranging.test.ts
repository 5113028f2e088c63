// Partials, documents and values of the demo are inlined and renamed one by one: every page stays the same.
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { saveTexts, textOf } from '../../testing/edits.ts'
import { testWorkbench, type TestWorkbench } from '../../testing/workbench.ts'

let test: TestWorkbench
let before: string[]
beforeAll(async () => {
  test = await testWorkbench()
  before = await pages()
})
afterAll(() => test.close())

const PATHS = [
  ...['/', '/posts?page=2', '/posts/zip-surgery', '/posts/moth', '/category/bicycles', '/about', '/archive'],
  ...['/2025/03', '/none', '/search?q=zip', '/author/wen-adeyemi', '/tag/zips', '/feed.atom'],
]
/** What readers get, without the token of a form and the signatures of cursors, and with spaces as they are shown. */
const shown = (text: string) =>
  text
    .replace(/name="token" value="[^"]+"/g, '')
    .replace(/assets\/(moved-)?/g, 'assets/')
    .replace(/\?from=[\w.-]+/g, '?from')
    .replace(/\s+/g, ' ')
    .replace(/> | </g, (found) => found.trim())
const pages = () =>
  Promise.all(
    PATHS.map(async (path) => {
      const { status, text } = await test.read(path)
      return `${path} ${status} ${shown(text)}`
    }),
  )

interface Drafted {
  steps: { do: string; document: string }[]
  code?: string
  title?: string
}
const draft = async (operation: string, body: object) =>
  await test.api<Drafted>('POST', `/api/${operation}`, body)

/** Applies a draft, compares all pages, and undoes it. Returns the documents that it changes. */
async function samePages({ status, answer }: { status: number; answer: Drafted }, what: string) {
  expect([what, status, answer.code]).toEqual([what, 200, undefined])
  const applied = await test.api<{ undo: unknown[]; problems?: unknown[] }>('POST', '/api/changes', {
    steps: answer.steps,
  })
  expect([what, applied.status, applied.answer.problems]).toEqual([what, 200, undefined])
  const now = await pages()
  expect((await test.api('POST', '/api/changes', { steps: applied.answer.undo })).status).toBe(200)
  expect(now.flatMap((page, index) => differenceOf(before[index] ?? '', page, what))).toEqual([])
  return answer.steps.map((one) => `${one.do === 'save-document' ? '' : '-'}${one.document}`)
}

/** Returns where two pages begin to differ. */
function differenceOf(one: string, other: string, what: string): string[] {
  if (one === other) return []
  let at = 0
  while (one[at] === other[at]) at++
  const part = (text: string) => text.slice(Math.max(0, at - 60), at + 60)
  return [`${what}, ${one.slice(0, 30)}: ${part(one)} | ${part(other)}`]
}

async function documents(pattern: RegExp): Promise<[string, string][]> {
  const { answer } = await test.api<{ path: string }[]>('GET', '/api/documents')
  const own = answer.map((one) => one.path).filter((path) => pattern.test(path))
  return await Promise.all(
    own.map(async (path): Promise<[string, string]> => [path, await textOf(test.blog, path)]),
  )
}

describe('inlining', () => {
  it('puts every partial of the demo in the place of its tag', async () => {
    let inlined = 0
    const refused: string[] = []
    for (const [document, text] of await documents(/^templates\//))
      for (const { index } of text.matchAll(/\{%-? render/g)) {
        const drafted = await draft('template/inline', { document, text, at: index + 5 })
        if (drafted.status === 200) {
          await samePages(drafted, `${document} at ${index}`)
          inlined++
        } else refused.push(`${document} ${drafted.answer.title}`)
      }
    expect(inlined).toBeGreaterThan(12)
    // What these partials can do without on one of their pages would be a mistake in the page itself.
    const fault = 'The change would cause a fault in the templates.'
    expect(refused).toEqual([
      `templates/pages/archive.liquid ${fault} A page of posts has no “pageCount”.`,
      `templates/partials/comments.liquid ${fault} There is no value “isWaiting” here.`,
    ])
  })

  it('gives another name to what would mean something else, and deletes a partial that nothing else renders', async () => {
    await saveTexts(test.blog, {
      'templates/partials/both.liquid':
        '{% assign size = post.title | size %}{% for tag in tags limit: 1 %}{{ post.title }} {{ size }} {{ label | upcase }} {{ tag.name }}{% endfor %}\n',
    })
    const path = 'templates/pages/post.liquid'
    const stored = await textOf(test.blog, path)
    const text = stored.replace(
      /(<article[^>]*>)/,
      "$1{% assign size = 3 %}{% assign label = 4 %}{% assign entry = post %}<i>{%- render 'partials/both', post: entry, tags: entry.tags, label: 'size' -%}</i>{{ size }}{{ label }}",
    )
    expect((await saveTexts(test.blog, { [path]: text })).ok).toBe(true)
    try {
      const with_ = (await test.read('/posts/zip-surgery')).text
      const at = text.indexOf('render')
      const { status, answer } = await draft('template/inline', { document: path, text, at })
      expect(status).toBe(200)
      const saved = answer.steps.find((one) => one.document === path) as unknown as { text: string }
      const [written] = /<i>.*<\/i>.*/.exec(saved.text) ?? []
      expect(written).toBe(
        "<i>{% assign label_2 = 'size' %}{% assign size_2 = entry.title | size %}{% for tag_2 in entry.tags limit: 1 %}{{ entry.title }} {{ size_2 }} {{ label_2 | upcase }} {{ tag_2.name }}{% endfor %}</i>{{ size }}{{ label }}",
      )
      expect(answer.steps.map((one) => one.do)).toEqual(['save-document', 'delete-document'])
      await test.api('POST', '/api/changes', { steps: answer.steps })
      expect(shown((await test.read('/posts/zip-surgery')).text)).toBe(shown(with_))
    } finally {
      await saveTexts(test.blog, { [path]: stored, 'templates/partials/both.liquid': null })
    }
  })

  it.each([
    ['<p>no tag</p>', 'inline-nothing'],
    ["{% for post in posts %}{% render 'partials/card' for posts as post %}{% endfor %}", 'inline-each'],
    ['{% if %', 'extract-part-of-tag'],
  ])('is refused with a reason: %s', async (text, code) => {
    const at = Math.max(0, text.indexOf('render'))
    const { status, answer } = await draft('template/inline', {
      document: 'templates/pages/home.liquid',
      text,
      at,
    })
    expect([status, answer.code]).toEqual([422, code])
  })
})

describe('renaming a document', () => {
  it('moves a template to another folder, and quotes a name that YAML reads as another value', async () => {
    await samePages(
      await draft('document/rename', {
        from: 'templates/partials/card.liquid',
        to: 'templates/layouts/card.liquid',
      }),
      'card',
    )
    const { answer } = await draft('document/rename', {
      from: 'queries/all-posts.yaml',
      to: 'queries/null.yaml',
    })
    const routes = answer.steps.find((one) => one.document === 'routes.yaml') as unknown as { text: string }
    expect(routes.text).toContain('"null"')
    await samePages({ status: 200, answer }, 'null')
  })
  it.each([
    ['routes.yaml', 'queries/a.yaml', 'rename-not-possible'],
    ['queries/nothing.yaml', 'queries/a.yaml', 'rename-not-possible'],
    ['assets/blog.css', 'assets/blog.js', 'rename-name-invalid'],
    ['assets/blog.css', 'queries/blog.yaml', 'rename-name-invalid'],
    ['templates/pages/home.liquid', 'templates/pages/Home.liquid', 'rename-name-invalid'],
    ['templates/pages/home.liquid', 'templates/pages/post.liquid', 'rename-name-taken'],
  ])('is refused with a reason: %s to %s', async (from, to, code) => {
    const { status, answer } = await draft('document/rename', { from, to })
    expect([status, answer.code]).toEqual([422, code])
  })
})

describe('renaming a value', () => {
  it('changes every value that a template of the demo binds, and what callers pass', async () => {
    let renamed = 0
    for (const [document, text] of await documents(/^templates\//)) {
      const places = new Map<string, number>()
      for (const found of text.matchAll(/\{%-?\s*(?:assign|capture|for)\s+(\w+)/g))
        places.set(found[1] ?? '', found.index + found[0].length - 1)
      // Arguments, as a partial reads them.
      if (document.includes('/partials/'))
        for (const found of text.matchAll(/\{\{-?\s*([a-z]\w*)\.\w/g))
          if (!places.has(found[1] ?? '')) places.set(found[1] ?? '', found.index + found[0].length - 2)
      for (const [name, at] of places) {
        if (['blog', 'request', 'form', 'forloop', 'visitor'].includes(name)) continue
        const drafted = await draft('template/rename-value', { document, text, at, to: 'other_name' })
        const changed = await samePages(drafted, `${document} ${name}`)
        expect(changed).toContain(document)
        renamed++
      }
    }
    expect(renamed).toBeGreaterThan(12)
  })
  it('renames an argument in the tags of all callers', async () => {
    const document = 'templates/partials/card.liquid'
    const text = await textOf(test.blog, document)
    const at = text.indexOf('post.title')
    const { answer } = await draft('template/rename-value', { document, text, at, to: 'entry' })
    expect(answer.steps.length).toBeGreaterThan(3)
    const listing = answer.steps.find((one) => one.document.endsWith('listing.liquid')) as unknown as {
      text: string
    }
    expect(listing.text).toMatch(/\{% render 'partials\/card', entry: post/)
  })
  it.each([
    ['{{ posts.items }}', 'posts', 'x', 'rename-value-data'],
    ['{{ blog.title }}', 'blog', 'x', 'rename-value-data'],
    ['{% assign a = 1 %}{{ a }}', 'a =', '2nd', 'rename-value-name'],
    ['{% assign a = 1 %}{{ a }}', 'a =', 'blog', 'rename-value-taken'],
    ['{% assign a = 1 %}{% assign b = 2 %}{{ a }}', 'a =', 'b', 'rename-value-taken'],
    ['<p>text</p>', 'text', 'x', 'rename-value-nothing'],
    ['{% assign a = 1 %}{{ posts | where_exp: "item", "item.id == a" }}', 'a =', 'b', 'rename-use-unclear'],
  ])('is refused with a reason: %s', async (text, part, to, code) => {
    const document = 'templates/pages/home.liquid'
    const body = { document, text, at: text.indexOf(part), to }
    const { status, answer } = await draft('template/rename-value', body)
    expect([status, answer.code]).toEqual([422, code])
  })
})

// It leaves the demo with other names, so it is the last.
it('every template, asset and query of the demo gets another name, one after the other', async () => {
  for (const [from] of await documents(/^(templates|assets|queries)\//)) {
    const to = from.replace(/([\w-]+)(\.\w+)$/, 'moved-$1$2')
    const { answer } = await draft('document/rename', { from, to })
    expect(answer.steps.map((one) => `${one.do} ${one.document}`)).toEqual(
      expect.arrayContaining([`save-document ${to}`, `delete-document ${from}`]),
    )
    expect((await test.api('POST', '/api/changes', { steps: answer.steps })).status, from).toBe(200)
  }
  expect(
    (await pages()).flatMap((page, index) => differenceOf(before[index] ?? '', page, 'renamed')),
  ).toEqual([])
})
