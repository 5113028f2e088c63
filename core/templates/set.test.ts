// The template boundary: escaping, safe HTML, kept parts and the data they need, errors with their line.
import { describe, expect, it } from 'vitest'
import { NOTHING } from '../caching/dependence.ts'
import { FragmentSession } from '../caching/session.ts'
import { ProcessFragmentStore, type FragmentStore } from '../caching/store.ts'
import { SafeHtml } from '../content/html/safe-html.ts'
import { DataNeeded, RenderData } from './scope.ts'
import { TemplateFailure, TemplateSet } from './set.ts'

interface Rendering {
  data?: Record<string, unknown>
  store?: FragmentStore
  /** Data that exists but is not loaded. */
  later?: string[]
  request?: { path: string; query: string }
}

function render(
  sources: Record<string, string>,
  { data = {}, store, later = [], request = { path: '/', query: '' } }: Rendering = {},
) {
  const set = new TemplateSet(new Map(Object.entries(sources)), 'Europe/London')
  if (set.problems.length > 0) throw new Error(JSON.stringify(set.problems))
  const renderData = new RenderData([...Object.keys(data), ...later])
  for (const [name, value] of Object.entries(data))
    renderData.provide(name, { value, dependence: { tags: new Set([`source:${name}`]), timed: false } })
  const fragments = new FragmentSession(store, 'v1', 1_000)
  const html = set.render(
    'pages/p',
    [...Object.keys(data), ...later],
    { blog: { title: 'T' }, request },
    {
      data: renderData,
      fragments,
      now: new Date('2026-11-24T12:00:00Z'),
      url: (route, parameters) =>
        route === 'post'
          ? { ok: true, path: `/posts/${String(parameters['slug'])}` }
          : { ok: false, message: `there is no route “${route}”` },
      asset: () => '/assets/x',
      request,
    },
  )
  fragments.commit(Infinity)
  return { html, fragments }
}
const page = (text: string, rendering?: Rendering) => render({ 'pages/p': text }, rendering).html

describe('printing', () => {
  it.each([
    ['{{ x }}', '<b>&"\'', '&lt;b&gt;&amp;&quot;&#39;'],
    ['{{ x }}', new SafeHtml('<b>bold</b>'), '<b>bold</b>'],
    ['{{ x | raw }}', new SafeHtml('<b>bold</b>'), '<b>bold</b>'],
    ['{{ x }}', null, ''],
    ['{{ x }}', { title: 'a row' }, ''],
    ['{{ x }}', ['<a>', 1], '&lt;a&gt;1'],
    ['{% capture c %}<i>{{ x }}</i>{% endcapture %}{{ c }}', '<', '<i>&lt;</i>'],
    ['{{ x | markdown }}', '**b** <script>x</script>', '<p><strong>b</strong> </p>\n'],
    ['{{ x | excerpt: 10 }}', 'Nine kettles out of ten', 'Nine…'],
    ['{{ x | date: "%-d %B %Y %H:%M" }}', new Date('2026-07-01T08:30:00Z'), '1 July 2026 09:30'],
    ['{{ x | date: "%Y" }}', null, ''],
    ['{{ "now" | date: "%Y" }}', null, '2026'],
    ['{{ x | ago }}', new Date('2026-11-24T09:00:00Z'), '3 hours ago'],
    ['{{ "post" | url: slug: x }}', 'a-b', '/posts/a-b'],
    ['{{ x.constructor }}{{ x.__proto__ }}', 'text', ''],
  ])('%s of %s', (text, x, expected) => {
    expect(page(text, { data: { x } })).toBe(expected)
  })

  it('refuses to print plain text without escaping', () => {
    expect(() => page('line one\n{{ x | raw }}', { data: { x: '<b>' } })).toThrow(TemplateFailure)
    try {
      page('line one\n{{ x | raw }}', { data: { x: '<b>' } })
    } catch (error) {
      expect(error instanceof TemplateFailure && error.problem).toMatchObject({
        file: 'templates/pages/p.liquid',
        line: 2,
      })
    }
  })

  it('keeps other parameters when an address is changed', () => {
    expect(
      page('{{ request.path | url_with: page: 2 }}', { request: { path: '/posts', query: 'tag=a' } }),
    ).toBe('/posts?tag=a&amp;page=2')
  })

  it('stops a page that never ends', () => {
    expect(() =>
      page('{% for a in (1..3000) %}{% for b in (1..3000) %}{{ a | plus: b }}{% endfor %}{% endfor %}'),
    ).toThrow(TemplateFailure)
  })
})

describe('kept parts', () => {
  const sources = {
    'pages/p': "{% render 'partials/aside', list: list %}",
    'partials/aside':
      "{% fragment 'aside', lifetime: '1h' %}{% for one in list %}[{{ one }}]{% endfor %}{% endfragment %}",
  }

  it('ask for what they read only when they must be made', () => {
    const store = new ProcessFragmentStore(1e6)
    expect(new TemplateSet(new Map(Object.entries(sources)), 'UTC').reads('pages/p')).toEqual({
      all: new Set(['list']),
      eager: new Set(),
    })
    expect(() => render(sources, { store, later: ['list'] })).toThrow(DataNeeded)
    expect(render(sources, { store, data: { list: ['a', 'b'] } }).html).toBe('[a][b]')
    expect(render(sources, { store, later: ['list'] }).html).toBe('[a][b]')
  })

  it('depend on what the values behind the names they read depend on', () => {
    const store = new ProcessFragmentStore(1e6)
    render(sources, { store, data: { list: [] } })
    expect([...store.entries()].map(([, copy]) => [...copy.tags])).toEqual([['source:list']])
  })

  it('depend on everything read, where a value does not say where it comes from', () => {
    const store = new ProcessFragmentStore(1e6)
    page("{% assign t = post.title %}{% fragment 'f', lifetime: '1h' %}{{ t }}{% endfragment %}", {
      store,
      data: { post: { title: 'A' } },
    })
    expect([...store.entries()].map(([, copy]) => [...copy.tags])).toEqual([['source:post']])
  })

  it('vary by the values named, and by nothing else', () => {
    const store = new ProcessFragmentStore(1e6)
    const text =
      "{% fragment 'f', vary: post.id, vary: post.slug, lifetime: '1h' %}{{ post.title }}{% endfragment %}"
    const title = (id: number, slug: string, shown: string) =>
      page(text, { store, data: { post: { id, slug, title: shown } } })
    expect([title(1, 'a', 'A'), title(2, 'a', 'B'), title(1, 'b c', 'C'), title(1, 'a', 'changed')]).toEqual([
      'A',
      'B',
      'C',
      'A',
    ])
  })

  it('inside each other: the outer one depends on what the inner one does, also when that was a hit', () => {
    const store = new ProcessFragmentStore(1e6)
    const inner = "{% fragment 'in', lifetime: '1m' %}{{ a }}{% endfragment %}"
    page(inner, { store, data: { a: 1 } })
    page(`{% fragment 'out', lifetime: '1h' %}${inner}{% endfragment %}`, { store, data: { a: 1 } })
    const outer = [...store.entries()].find(([, copy]) => copy.name === 'out')?.[1]
    expect([...(outer?.tags ?? [])]).toContain('source:a')
    expect(outer?.expiresAt).toBe(1_000 + 60_000)
  })

  it('are neither read nor made for an author', () => {
    const { fragments } = render(sources, { data: { list: ['x'] } })
    expect(fragments.outcomes.map((one) => [one.outcome, one.stored])).toEqual([['bypass', false]])
  })
})

describe('templates that cannot be', () => {
  const problems = (text: string, more: Record<string, string> = {}) =>
    new TemplateSet(new Map(Object.entries({ 'pages/p': text, ...more })), 'UTC').problems

  it.each<[string, string, object]>([
    [
      'a fragment whose name is computed',
      '\n{% fragment post.slug, lifetime: "1h" %}{% endfragment %}',
      { line: 2, message: 'a fragment needs a name in quotes: lower-case letters, digits and hyphens' },
    ],
    [
      'a fragment with a name of its own kind',
      "{% fragment 'Side Bar', lifetime: '1h' %}{% endfragment %}",
      { line: 1 },
    ],
    [
      'a lifetime that is none',
      "{% fragment 'f', lifetime: '1 hour' %}{% endfragment %}",
      { message: '“1 hour” is no lifetime; write 45s, 30m, 1h or 7d' },
    ],
    [
      'an argument that fragments do not know',
      "{% fragment 'f', lifetime: '1h', until: '2h' %}{% endfragment %}",
      { message: "a fragment knows “vary: value” and “lifetime: '1h'”, not “until”" },
    ],
    [
      'a fragment that is not closed',
      "x\n{% fragment 'f', lifetime: '1h' %}y",
      { line: 2, message: 'fragment “f” is not closed with {% endfragment %}' },
    ],
    [
      'a fragment that keeps what differs by request',
      "{% fragment 'f', lifetime: '1h' %}{{ request.path }}{% endfragment %}",
      {
        message: 'fragment “f” reads “request”, which is different for each request',
        hint: 'name what differs, e.g. vary: request.path',
      },
    ],
    [
      'a partial whose name is computed',
      '{% render part %}',
      { hint: 'write it in quotes, so that it can be checked' },
    ],
    ['a tag that is not there', '\n\n{% shout %}', { line: 3, message: 'there is no tag “shout”' }],
    [
      'a tag of includes, which see everything',
      "{% include 'partials/a' %}",
      { message: 'there is no tag “include”' },
    ],
  ])('%s', (_, text, expected) => {
    expect(problems(text)).toContainEqual(
      expect.objectContaining({ file: 'templates/pages/p.liquid', ...expected }),
    )
  })

  it('a kept part that reads a path may, when it varies by it', () => {
    expect(
      problems("{% fragment 'f', vary: request.path, lifetime: '1h' %}{{ request.path }}{% endfragment %}"),
    ).toEqual([])
  })
  it('a partial with a fault of its own is not told missing as well', () => {
    expect(
      problems("{% render 'partials/a' %}", { 'partials/a': '{% if %}' }).map((one) => one.file),
    ).toEqual(['templates/partials/a.liquid'])
  })
})

describe('rendering that cannot go on', () => {
  const failure = (work: () => unknown) => {
    try {
      work()
    } catch (error) {
      if (error instanceof TemplateFailure) return error.problem
      throw error
    }
    return undefined
  }
  it('of a page that is not there', () => {
    const set = new TemplateSet(new Map(), 'UTC')
    expect(failure(() => set.render('pages/none', [], {}, { data: new RenderData([]) } as never))).toEqual({
      file: 'templates/pages/none.liquid',
      message: 'there is no such template',
    })
  })
  it('of a page that is longer than any page', () => {
    const long = 'x'.repeat(1_000)
    expect(
      failure(() => page('{% for n in (1..10001) %}{{ long }}{% endfor %}', { data: { long } }))?.message,
    ).toMatch(/^the page is longer than 10000000 characters$|memory/)
  })
  it('of a part that is kept for each of something that has no plain value', () => {
    const text = "\n{% fragment 'f', vary: post, lifetime: '1h' %}x{% endfragment %}"
    expect(failure(() => page(text, { data: { post: { id: 1 } } }))).toMatchObject({
      line: 2,
      message: 'vary needs a plain value such as post.id, not a whole row or list',
    })
    expect(page(text, { data: { post: null } })).toBe('\nx')
  })
  it('in a partial: with the partial’s line', () => {
    const sources = { 'pages/p': "\n{% render 'partials/a', x: x %}", 'partials/a': '\n\n\n{{ x | raw }}' }
    expect(failure(() => render(sources, { data: { x: 'plain' } }))).toMatchObject({
      file: 'templates/partials/a.liquid',
      line: 4,
    })
  })
})

it('nothing has no tags', () => {
  expect([...NOTHING.tags]).toEqual([])
})
