// The template boundary: escaping, safe HTML, kept parts and the data they need, errors with their line.
import { describe, expect, it } from 'vitest'
import { NOTHING } from '../caching/dependence.ts'
import { FragmentSession } from '../caching/session.ts'
import { ProcessFragmentStore, type FragmentStore } from '../caching/store.ts'
import { SafeHtml } from '../content/safe-html.ts'
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

it('nothing has no tags', () => {
  expect([...NOTHING.tags]).toEqual([])
})
