// The template set: escaping, safe HTML, fragments and the data they need, problems with their lines.
import { describe, expect, it } from 'vitest'
import { NOTHING } from '../caching/dependence.ts'
import { FragmentSession } from '../caching/session.ts'
import { ProcessFragmentStore, type FragmentStore } from '../caching/store.ts'
import { SafeHtml } from '../content/html/safe-html.ts'
import { DataNeeded, RenderData } from './scope.ts'
import { TemplateFailure } from './failure.ts'
import { TemplateSet } from './set.ts'
import { NO_TEMPLATE_TRACER } from './tracer.ts'

interface Rendering {
  data?: Record<string, unknown>
  store?: FragmentStore
  /** Data that exists but is not loaded. */
  later?: string[]
  request?: { path: string; query: string }
  language?: string
  processorTime?: () => number
}

function render(
  sources: Record<string, string>,
  {
    data = {},
    store,
    later = [],
    request = { path: '/', query: '' },
    language,
    processorTime = () => process.cpuUsage().user / 1_000,
  }: Rendering = {},
) {
  const set = TemplateSet.of(new Map(Object.entries(sources)), 'Europe/London', undefined, { language })
  if (set.problems.length > 0) throw new Error(JSON.stringify(set.problems))
  const renderData = new RenderData([...Object.keys(data), ...later], (name) => name)
  for (const [name, value] of Object.entries(data))
    renderData.provide(name, {
      value,
      dependence: { ...NOTHING, sets: new Map([[name, { kind: 'any', source: 'posts' }]]) },
    })
  const fragments = new FragmentSession(store, 1_000)
  const html = set.render(
    'pages/p',
    [...Object.keys(data), ...later],
    { blog: { title: 'T' }, request },
    {
      data: renderData,
      definition: { state: () => 'v1' },
      fragments,
      now: new Date('2026-11-24T12:00:00Z'),
      url: (route, parameters) =>
        route === 'post'
          ? { ok: true, path: `/posts/${String(parameters['slug'])}` }
          : {
              ok: false,
              problem: { code: 'address-route-unknown', message: `There is no route “${route}”.` },
            },
      asset: () => '/assets/x',
      processorTime,
      request: { path: request.path, search: new URLSearchParams(request.query) },
      tracer: NO_TEMPLATE_TRACER,
      refreshOf: () => 'both',
      described: {
        blog: { title: 'Blog', tagline: '', origin: '', language: 'en' },
        addressOf: () => undefined,
      },
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

  it('lets a page finish that is held up without doing much', () => {
    const held = {
      get title() {
        const start = performance.now()
        while (performance.now() - start < 260);
        return 'Late'
      },
    }
    expect(page('{{ post.title }}', { data: { post: held } })).toBe('Late')
  })

  it.each([
    [260, 'ends as usual'],
    [1_100, 'is stopped'],
  ])('a long page that is held up for %i ms without using the processor %s', (milliseconds, outcome) => {
    const held = {
      get title() {
        Atomics.wait(new Int32Array(new SharedArrayBuffer(4)), 0, 0, milliseconds)
        return 'Late'
      },
    }
    const render = () =>
      page('{{ post.title }}{% for a in (1..9000) %}{% assign b = a %}{% endfor %}', {
        data: { post: held },
        processorTime: () => 0,
      })
    if (outcome === 'is stopped') expect(render).toThrow(/was stopped/)
    else expect(render()).toBe('Late')
  })

  it('prints dates and ages in the language of the blog', () => {
    const data = { x: new Date('2026-03-02T09:00:00Z') }
    const text = '{{ x | date: "%-d. %B, %A, %b" }} {{ x | ago }}'
    expect(page(text, { data, language: 'de' })).toBe('2. März, Montag, Mär vor 8 Monaten')
    expect(page(text, { data, language: 'en-GB' })).toBe('2. March, Monday, Mar 8 months ago')
  })

  it('keeps the other parameters of an address', () => {
    expect(
      page('{{ request.path | url_with: page: 2 }}', { request: { path: '/posts', query: 'tag=a' } }),
    ).toBe('/posts?tag=a&amp;page=2')
  })

  it.each([
    ['its own thread was busy', 250, false],
    ['only others were busy', 0, true],
  ])('a rendering that takes long because %s', (_, used, isRendered) => {
    let asked = 0
    const processorTime = () => {
      // The machine is held up for longer than a rendering may take.
      if (asked++ === 0) for (const end = performance.now() + 220; performance.now() < end;);
      return asked * used
    }
    const text = '{% for a in (1..9000) %}{% if a > 0 %}{% endif %}{% endfor %}x'
    const rendered = () => page(text, { processorTime })
    if (isRendered) expect(rendered()).toBe('x')
    else expect(rendered).toThrow(/not finished after 150 ms/)
    expect(asked).toBeGreaterThan(1)
  })

  const grown = (start: string, times: number) =>
    `{% assign s = '${start}' %}{% for i in (1..${times}) %}{% assign s = s | append: s %}{% endfor %}`
  it.each<[string, string]>([
    ['{% for a in (1..9000) %}{% for b in (1..9000) %}{{ a | plus: b }}{% endfor %}{% endfor %}', 'runaway'],
    [
      "{% for i in (1..900) %}{% assign a = (1..40000) | where_exp: 'x', 'x > 3' | group_by_exp: 'x', 'x' | sort %}{% endfor %}",
      'runaway',
    ],
    ['{% assign a = (1..20000000) | sort %}', 'list-too-long'],
    ['{% for a in (1..20000000) %}x{% endfor %}', 'list-too-long'],
    [
      '{% assign l = (1..40000) %}{% for i in (1..99) %}{% assign l = l | concat: l %}{% endfor %}',
      'list-too-long',
    ],
    [`${grown('ab', 17)}{% assign l = s | split: '' | sort %}`, 'list-too-long'],
    [`${grown('ab', 40)}{{ s.size }}`, 'text-too-long'],
    [`${grown('ab', 15)}{% assign l = s | replace: 'a', s %}`, 'text-too-long'],
    [`${grown('ab', 15)}{{ (1..40000) | join: s }}`, 'text-too-long'],
    [`${grown('* a', 18)}{{ s | markdown }}`, 'text-too-long'],
    ["{{ 'now' | date: '%999999999d' }}", 'text-too-long'],
    ['{% for i in (1..50000) %}{{ long }}{% endfor %}', 'page-too-long'],
    ['{% capture c %}{% for i in (1..50000) %}{{ long }}{% endfor %}{% endcapture %}', 'page-too-long'],
  ])('stops %s before it takes much time or memory', (text, code) => {
    try {
      page(text, { data: { long: 'x'.repeat(10_000) } })
      expect.fail('It was rendered.')
    } catch (error) {
      if (!(error instanceof TemplateFailure)) throw error
      expect(error.problem).toMatchObject({ code: `template-${code}`, line: 1 })
    }
  })
})

describe('images', () => {
  const image = { name: 'wheel.jpg', width: 640, height: 480, text: 'A “wheel” & spokes' }
  const shown = (call: string, data: Record<string, unknown> = { image }) =>
    page(`{{ image | ${call} }}`, { data })

  it('are shown in all sizes with their text', () => {
    const html = shown("picture: sizes: '20rem', class: 'lead'")
    expect(html).toContain('alt="A “wheel” &amp; spokes"')
    expect(html).toContain('class="lead"')
    expect(html).toContain('/media/wheel.jpg/320.avif 320w')
  })
  it('can have another text, or none', () => {
    expect(shown("picture: text: ''")).toContain('alt=""')
  })
  it('print nothing where there is none', () => {
    expect(shown('picture', { image: null })).toBe('')
  })
  it.each([
    ['picture', { image: 'wheel.jpg' }, /shows an image, and this value is a text/],
    ['picture', { image: { id: 1, title: 'A post' } }, /this value is another row/],
    ['picture: width: 3', { image }, /has no argument “width”/],
  ])('%s of %o is a problem', (call, data, message) => {
    expect(() => shown(call, data)).toThrow(message)
  })
})

describe('fragments', () => {
  const sources = {
    'pages/p': "{% render 'partials/aside', list: list %}",
    'partials/aside':
      "{% fragment 'aside', lifetime: '1h' %}{% for one in list %}[{{ one }}]{% endfor %}{% endfragment %}",
  }

  it('load what they read only if their copy is missing', () => {
    const store = new ProcessFragmentStore(1e6)
    expect(TemplateSet.of(new Map(Object.entries(sources)), 'UTC').names('pages/p')).toEqual({
      all: new Set(['list']),
      outsideFragments: new Set(),
    })
    expect(() => render(sources, { store, later: ['list'] })).toThrow(DataNeeded)
    expect(render(sources, { store, data: { list: ['a', 'b'] } }).html).toBe('[a][b]')
    expect(render(sources, { store, later: ['list'] }).html).toBe('[a][b]')
  })

  it('depend on what the values they read depend on', () => {
    const store = new ProcessFragmentStore(1e6)
    render(sources, { store, data: { list: [] } })
    expect([...store.entries()].map(([, copy]) => [...copy.dependence.sets.keys()])).toEqual([['list']])
  })

  it('have plain values, captured texts and the states of loops in their keys', () => {
    const store = new ProcessFragmentStore(1e6)
    const shown = (text: string, x: unknown) => page(text, { store, data: { x } })
    for (const text of [
      "{% assign t = x | upcase %}{% fragment 'f', lifetime: '1h' %}{{ t }}{% endfragment %}",
      "{% capture t %}<{{ x }}>{% endcapture %}{% fragment 'f', lifetime: '1h' %}{{ t }}{% endfragment %}",
      "{% assign t = x | split: '' %}{% for one in t %}{% fragment 'f', lifetime: '1h' %}{{ one }}{{ forloop.index }}{{ forloop.last }}{% endfragment %}{% endfor %}",
      "{% assign t = x | split: '' | reverse %}{% fragment 'f', lifetime: '1h' %}{{ t[0] }}{{ t.size }}{% endfragment %}",
    ]) {
      const fresh = (x: string) => page(text, { data: { x } })
      for (const x of ['abba', 'ab', 'abba', 'c']) expect(shown(text, x)).toBe(fresh(x))
    }
    expect([...store.entries()].every(([, copy]) => copy.dependence.sets.size === 0)).toBe(true)
  })

  it('never share copies if their bodies differ', () => {
    const store = new ProcessFragmentStore(1e6)
    const body = (text: string) =>
      page(`{% fragment 'f', lifetime: '1h' %}${text}{% endfragment %}`, { store })
    expect([body('one'), body('two'), body('one')]).toEqual(['one', 'two', 'one'])
  })

  it('see what an expression in quotes reads, which is in their keys', () => {
    const store = new ProcessFragmentStore(1e6)
    const seen = (wanted: string) =>
      page(
        `{% assign wanted = '${wanted}' %}{% assign list = 'b,a' | split: ',' %}{% fragment 'f', lifetime: '1h' %}{% assign found = list | where_exp: 'one', 'one == wanted' %}{{ found.size }}{% endfragment %}`,
        { store },
      )
    expect([seen('a'), seen('c'), seen('a')]).toEqual(['1', '0', '1'])
  })

  it('have the values of “vary” in their keys', () => {
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

  it('pass the dependences of nested fragments on, also after a hit', () => {
    const store = new ProcessFragmentStore(1e6)
    const inner = "{% fragment 'in', lifetime: '1m' %}{{ a }}{% endfragment %}"
    page(inner, { store, data: { a: 1 } })
    page(`{% fragment 'out', lifetime: '1h' %}${inner}{% endfragment %}`, { store, data: { a: 1 } })
    const outer = [...store.entries()].find(([, copy]) => copy.name === 'out')?.[1]
    expect([...(outer?.dependence.sets.keys() ?? [])]).toEqual(['a'])
    expect(outer?.expiresAt).toBe(1_000 + 60_000)
  })

  it('are bypassed for an author', () => {
    const { fragments } = render(sources, { data: { list: ['x'] } })
    expect(fragments.outcomes.map((one) => [one.outcome, one.stored])).toEqual([['bypass', false]])
  })
})

describe('valid fragments', () => {
  it.each([
    [
      'reads what all requests of a page share',
      '{{ request.path }}{{ request.params.slug }}{{ request.canonical }}',
    ],
    [
      'assigns what only it reads',
      "{% assign form = 'a' %}{{ form }}{% for x in xs %}{% break %}{% endfor %}",
    ],
    ['has rows without links', '{% for p in posts.items %}{{ p.slug }}{{ posts.next }}{% endfor %}'],
  ])('one that %s', (_, body) => {
    const text = `{% fragment 'f', lifetime: '1h' %}${body}{% endfragment %}`
    expect(TemplateSet.of(new Map([['pages/p', text]]), 'UTC').problems).toEqual([])
  })
})

describe('invalid templates', () => {
  const problems = (text: string, more: Record<string, string> = {}) =>
    TemplateSet.of(new Map(Object.entries({ 'pages/p': text, ...more })), 'UTC').problems

  it.each<[string, string, object]>([
    [
      'a fragment with a computed name',
      '\n{% fragment post.slug, lifetime: "1h" %}{% endfragment %}',
      { line: 2, code: 'fragment-name-invalid' },
    ],
    [
      'a fragment with a space in its name',
      "{% fragment 'Side Bar', lifetime: '1h' %}{% endfragment %}",
      { line: 1, code: 'fragment-name-invalid' },
    ],
    [
      'an invalid lifetime',
      "{% fragment 'f', lifetime: '1 hour' %}{% endfragment %}",
      { code: 'fragment-lifetime-invalid' },
    ],
    [
      'an unknown argument of a fragment',
      "{% fragment 'f', lifetime: '1h', until: '2h' %}{% endfragment %}",
      { code: 'fragment-argument-unknown' },
    ],
    [
      'a fragment that is not closed',
      "x\n{% fragment 'f', lifetime: '1h' %}y",
      { line: 2, code: 'fragment-not-closed' },
    ],
    ...['request.query', 'request.url', 'request', 'request[x]', '"/" | url_with: page: 2'].map(
      (read): [string, string, object] => [
        `a fragment that reads ${read}`,
        `{% fragment 'f', lifetime: '1h' %}\n{{ ${read} }}{% endfragment %}`,
        { line: 2, code: 'fragment-reads-request' },
      ],
    ),
    ...['form.errors.name', 'form.once', 'visitor.isAuthor'].map((read): [string, string, object] => [
      `a fragment that reads ${read}`,
      `{% fragment 'f', lifetime: '1h' %}{% if ${read} %}x{% endif %}{% endfragment %}`,
      { line: 1, code: 'fragment-reads-visitor' },
    ]),
    ...[
      '{{ posts.next.url }}',
      '{% for p in posts.pages %}{{ p.url }}{% endfor %}',
      '{% assign n = posts.previous %}{{ n.url }}',
    ].map((read): [string, string, object] => [
      `a fragment with ${read}`,
      `\n{% fragment 'f', lifetime: '1h' %}${read}{% endfragment %}`,
      { line: 2, code: 'fragment-has-page-links' },
    ]),
    [
      'a fragment around a block',
      "{% fragment 'f', lifetime: '1h' %}{% block main %}{% endblock %}{% endfragment %}",
      { line: 1, code: 'fragment-has-block' },
    ],
    [
      'a fragment that ends the loop around it',
      "{% for x in xs %}{% fragment 'f', lifetime: '1h' %}\n{% break %}{% endfragment %}{% endfor %}",
      { line: 2, code: 'fragment-ends-loop' },
    ],
    [
      'a fragment that assigns what is read after it',
      "{% fragment 'f', lifetime: '1h' %}\n{% assign total = 2 %}{% endfragment %}\n{{ total }}",
      { line: 2, code: 'fragment-assigns' },
    ],
    [
      'a tag that is not closed inside another one, with the line on which it begins',
      '{% for a in b %}\n{% if a %}\n{% endfor %}',
      {
        line: 3,
        code: 'template-tag-not-open',
        message: expect.stringMatching(/“if” is open, which begins on line 2/) as string,
      },
    ],
    ['a partial with a computed name', '{% render part %}', { code: 'template-name-computed' }],
    ['an unknown tag', '\n\n{% shout %}', { line: 3, code: 'template-tag-unknown' }],
    [
      'the tag “include”, whose partials would see everything',
      "{% include 'partials/a' %}",
      { code: 'template-tag-unknown' },
    ],
  ])('%s', (_, text, expected) => {
    expect(problems(text)).toContainEqual(
      expect.objectContaining({ file: 'templates/pages/p.liquid', ...expected }),
    )
  })

  it('a fragment may read the request if it varies by it', () => {
    expect(
      problems("{% fragment 'f', vary: request.path, lifetime: '1h' %}{{ request.path }}{% endfragment %}"),
    ).toEqual([])
  })
  it('a partial that does not parse is not reported as missing', () => {
    expect(
      problems("{% render 'partials/a' %}", { 'partials/a': '{% if %}' }).map((one) => one.file),
    ).toEqual(['templates/partials/a.liquid'])
  })
})

describe('failed renderings', () => {
  const failure = (work: () => unknown) => {
    try {
      work()
    } catch (error) {
      if (error instanceof TemplateFailure) return error.problem
      throw error
    }
    return undefined
  }
  it('of an unknown page', () => {
    const set = TemplateSet.of(new Map(), 'UTC')
    expect(
      failure(() => set.render('pages/none', [], {}, { data: new RenderData([], (name) => name) } as never)),
    ).toMatchObject({
      file: 'templates/pages/none.liquid',
      code: 'template-missing',
    })
  })
  it('of a page that is too long', () => {
    const long = 'x'.repeat(1_000)
    expect(
      failure(() =>
        page('{% for n in (1..10001) %}{{ long }}{% endfor %}', { data: { long }, processorTime: () => 0 }),
      )?.code,
    ).toMatch(/^template-(page-too-long|render-failed)$/)
  })
  it('of a fragment that varies by a row', () => {
    const text = "\n{% fragment 'f', vary: post, lifetime: '1h' %}x{% endfragment %}"
    expect(failure(() => page(text, { data: { post: { id: 1 } } }))).toMatchObject({
      line: 2,
      code: 'fragment-vary-not-plain',
    })
    expect(page(text, { data: { post: null } })).toBe('\nx')
  })
  it('in a partial have the partial’s line', () => {
    const sources = { 'pages/p': "\n{% render 'partials/a', x: x %}", 'partials/a': '\n\n\n{{ x | raw }}' }
    expect(failure(() => render(sources, { data: { x: 'plain' } }))).toMatchObject({
      file: 'templates/partials/a.liquid',
      line: 4,
    })
  })
})
