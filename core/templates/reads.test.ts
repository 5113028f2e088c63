// Which fields templates read: tables of templates, and random templates rendered over rows that record every access.
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { FragmentSession } from '../caching/session.ts'
import { NOTHING } from '../caching/dependence.ts'
import { RenderData } from './scope.ts'
import { TemplateSet } from './set.ts'
import { NO_TEMPLATE_TRACER } from './tracer.ts'

const setOf = (sources: Record<string, string>) => {
  const set = TemplateSet.of(new Map(Object.entries(sources)), 'UTC')
  if (set.problems.length > 0) throw new Error(JSON.stringify(set.problems))
  return set
}
const read = (page: string, more: Record<string, string> = {}, names = ['posts', 'post']) => {
  const { reads, whole } = setOf({ 'pages/p': page, ...more }).fieldReads('pages/p', names)
  return {
    reads: [...new Set(reads.map((one) => [one.data, ...one.path].join('.')))].sort(),
    whole: [...whole],
  }
}

describe('fields are followed', () => {
  it.each([
    ['{{ post.title }}', ['post.title']],
    [
      '{% if post.image %}x{% endif %}{{ post.category.slug | upcase }}',
      ['post.category.slug', 'post.image'],
    ],
    ['{% for p in posts.items %}{{ p.title }}{% endfor %}', ['posts.title']],
    ['{% for p in posts %}{{ p["title"] }}{% endfor %}{{ posts.size }}', ['posts.title']],
    ['{{ posts.items[0].slug }}{{ posts.first.excerpt }}', ['posts.excerpt', 'posts.slug']],
    ['{% assign a = posts.items | reverse | first %}{{ a.title }}', ['posts.title']],
    ['{% assign c = post.category %}{{ c.name }}', ['post.category', 'post.category.name']],
    ['{{ posts | map: "slug" | join }}', ['posts.slug']],
    [
      '{% assign i = post.image %}{{ i | picture }}',
      ['height', 'name', 'text', 'width']
        .map((one) => `post.image.${one}`)
        .concat('post.image')
        .sort(),
    ],
    ['{% assign s = posts | where: "title", "x" %}{{ s[0].slug }}', ['posts.slug', 'posts.title']],
    ['{{ "p" | excerpt: post.wordCount }}', ['post.wordCount']],
    [
      '{% for p in posts %}{% for t in p.tags %}{{ t.name }}{% endfor %}{% endfor %}',
      ['posts.tags', 'posts.tags.name'],
    ],
    ['{% for p in posts limit: post.id %}{{ forloop.index }}{% endfor %}', ['post.id']],
    ['{% case post.title %}{% when post.slug %}x{% endcase %}', ['post.slug', 'post.title']],
    ['{% unless post.a == post.b %}{{ x }}{% endunless %}', ['post.a', 'post.b']],
    [
      "{% fragment 'f', vary: post.id, lifetime: '1h' %}{{ post.title }}{% endfragment %}",
      ['post.id', 'post.title'],
    ],
    // From one iteration of a loop into the next.
    [
      '{% for p in posts %}{% if before %}{{ before.title }}{% endif %}{% assign before = p %}{% endfor %}',
      ['posts.title'],
    ],
    [
      '{% assign all = posts | concat: post.related %}{% for p in all %}{{ p.slug }}{% endfor %}',
      ['post.related', 'post.related.slug', 'posts.slug'],
    ],
  ])('%s', (page, reads) => {
    expect(read(page)).toEqual({ reads, whole: [] })
  })

  it('through layouts and partials, which see their arguments only', () => {
    const { reads } = read(
      "{% layout 'layouts/l' %}{% block main %}{% for p in posts.items %}{% render 'partials/c', it: p %}{% endfor %}{% endblock %}",
      {
        'partials/c': '{{ it.title }}{{ post.secret }}{% render "partials/d" with it.category as c %}',
        'partials/d': '{{ c.name }}',
        'layouts/l': '{% block main %}{% endblock %}{{ post.slug }}',
      },
    )
    expect(reads).toEqual(['post.slug', 'posts.category', 'posts.category.name', 'posts.title'])
  })

  it('through a partial once for each different argument', () => {
    const { reads } = read(
      "{% render 'partials/c', it: post %}{% render 'partials/c', it: posts.first %}{% render 'partials/c', it: post %}",
      { 'partials/c': '{{ it.title }}' },
    )
    expect(reads).toEqual(['post.title', 'posts.title'])
  })

  it.each(['{% render "partials/c", list: posts %}', '{% assign list = posts %}CHAIN'])(
    'through loops that carry rows from one iteration to the next: %s',
    (page) => {
      const names = ['a', 'b', 'c', 'd', 'e', 'f', 'g']
      const chain = names.map((name, index) => `{% assign ${name} = ${names[index + 1] ?? 'p'} %}`).join('')
      const loop = `{% for p in list %}{{ a.title }}${chain}{% endfor %}`
      expect(read(page.replace('CHAIN', loop), { 'partials/c': loop })).toEqual({
        reads: ['posts.title'],
        whole: [],
      })
    },
  )

  it('through assignments that fork in each iteration, up to a limit; beyond, everything counts as read', () => {
    const forks = ['x', 'y', 'z', 'u', 'v'].map((one) => `{% assign a = a.${one} %}`).join('')
    expect(
      read(`{% assign a = post %}{% for p in posts %}${forks}{% endfor %}{{ a.title }}`).whole,
    ).toContain('post')
  })

  it('not through filters whose field is computed: all of the row counts as read', () => {
    expect(read('{{ posts | map: post.title | join }}').whole).toEqual(['posts'])
    expect(read('{{ posts | sort | size }}').whole).toEqual([])
    expect(read('{% for n in (1..post.wordCount) %}{{ n }}{% endfor %}').reads).toEqual(['post.wordCount'])
    expect(read('{{ post[post.slug] }}').whole).toEqual(['post'])
  })

  it('with their template and line', () => {
    const { reads } = setOf({
      'pages/p': '\n\n{{ post.title }}\n{% render "partials/c", it: post %}',
      'partials/c': 'x\n{{ it.slug }}',
    }).fieldReads('pages/p', ['post'])
    expect(reads).toEqual([
      { data: 'post', path: ['title'], template: 'pages/p', line: 3 },
      { data: 'post', path: ['slug'], template: 'partials/c', line: 2 },
    ])
  })
})

describe('what cannot be followed counts as reading everything', () => {
  it.each([
    '{{ post[key] }}',
    '{{ post | json }}',
    '{% for p in posts.items %}{{ p[post.title] }}{% endfor %}',
    '{{ posts | map: key }}',
    '{% assign a = posts | where_exp: "p", "p.slug == 1" %}',
  ])('%s', (page) => {
    expect(read(page).whole.length).toBe(1)
  })
})

/** Returns a row that records which of its fields are read. */
function noting(row: Record<string, unknown>, path: string, seen: Set<string>): object {
  return new Proxy(row, {
    get(target, key) {
      const value: unknown = Reflect.get(target, key)
      if (typeof key !== 'string' || !Object.hasOwn(target, key)) return value
      seen.add(`${path}.${key}`)
      return typeof value === 'object' && value !== null && !Array.isArray(value)
        ? noting(value as Record<string, unknown>, `${path}.${key}`, seen)
        : value
    },
  })
}

const FIELDS = ['title', 'slug', 'category.name', 'category.slug', 'wordCount']
const LISTS = ['posts', 'latest']
/** Random statements that use rows in many ways. */
const statement = (depth: number, scope: readonly string[]): fc.Arbitrary<string> => {
  const row = fc.constantFrom(...scope)
  const field = fc.constantFrom(...FIELDS)
  const list = fc.constantFrom(...LISTS)
  const simple = fc.oneof(
    fc.tuple(row, field).map(([v, f]) => `{{ ${v}.${f} }}`),
    fc.tuple(row, field, field).map(([v, f, g]) => `{% if ${v}.${f} == ${v}.${g} %}a{% else %}b{% endif %}`),
    fc.tuple(list, field).map(([l, f]) => `{{ ${l} | map: "${f.split('.')[0] ?? ''}" | size }}`),
    fc.tuple(list, field).map(([l, f]) => `{% assign one = ${l} | reverse | first %}{{ one.${f} }}`),
    fc.tuple(row, field).map(([v, f]) => `{% assign kept = ${v} %}{{ kept.${f} }}`),
    fc.tuple(row, field).map(([v, f]) => `{{ "x" | append: ${v}.${f} }}`),
    fc
      .tuple(row, fc.constantFrom('title', 'slug'))
      .map(([v, f]) => `{{ ${v}["${f}"] }}{{ carried.${f} }}{% assign carried = ${v} %}`),
    row.map((v) => `{% render "partials/card", it: ${v} %}`),
  )
  if (depth === 0) return simple
  return fc.oneof(
    simple,
    list.chain((l) =>
      fc
        .array(statement(depth - 1, [...scope, 'p']), { minLength: 1, maxLength: 3 })
        .map((inner) => `{% for p in ${l} %}${inner.join('')}{% endfor %}`),
    ),
    fc
      .array(statement(depth - 1, scope), { minLength: 1, maxLength: 3 })
      .map((inner) => `{% if post %}${inner.join('')}{% endif %}`),
  )
}

it('every field that a random page reads was found by the analysis', () => {
  let asked = 0
  fc.assert(
    fc.property(
      fc.array(statement(2, ['post']), { minLength: 1, maxLength: 5 }),
      field(),
      (parts, ofCard) => {
        const set = setOf({ 'pages/p': parts.join('\n'), 'partials/card': `{{ it.${ofCard} }}` })
        const seen = new Set<string>()
        const row = (data: string, n: number) =>
          noting(
            { title: `t${n}`, slug: `s${n}`, wordCount: n, category: { name: 'c', slug: `k${n}` } },
            data,
            seen,
          )
        const data = new RenderData(['post', ...LISTS], (name) => name)
        const provide = (name: string, value: unknown) => data.provide(name, { value, dependence: NOTHING })
        provide('post', row('post', 0))
        for (const name of LISTS) provide(name, [row(name, 1), row(name, 2)])
        const request = { path: '/', query: '' }
        set.render(
          'pages/p',
          ['post', ...LISTS],
          { request },
          {
            data,
            definition: { state: () => '' },
            fragments: new FragmentSession(undefined, 0),
            now: new Date(0),
            url: () => ({ ok: true, path: '/' }),
            asset: () => undefined,
            processorTime: () => 0,
            request: { path: '/', search: new URLSearchParams() },
            tracer: NO_TEMPLATE_TRACER,
            refreshOf: () => 'both',
            described: {
              blog: { title: 'Blog', tagline: '', origin: '', language: 'en' },
              addressOf: () => undefined,
            },
          },
        )
        const { reads } = set.fieldReads('pages/p', ['post', ...LISTS])
        const known = new Set(
          reads.flatMap(({ data: name, path }) =>
            path.map((_, end) => [name, ...path.slice(0, end + 1)].join('.')),
          ),
        )
        asked += seen.size
        expect([...seen].filter((one) => !known.has(one))).toEqual([])
      },
    ),
    { numRuns: 400 },
  )
  expect(asked).toBeGreaterThan(1_000)
})

describe('partials that render each other on many paths', () => {
  /** Each partial renders the next two, so the number of paths from the first to the last is a Fibonacci number. */
  const ladder = (count: number) =>
    Object.fromEntries(
      Array.from({ length: count }, (_, index) => [
        `partials/p${index}`,
        index < count - 2
          ? `{% render 'partials/p${index + 1}', it: it %}{% render 'partials/p${index + 2}', it: it %}`
          : '{{ it.title }}',
      ]),
    )
  const page = "{% render 'partials/p0', it: post %}"

  it('are read once each', () => {
    const set = setOf({ 'pages/p': page, ...ladder(36) })
    const { reads, whole } = set.fieldReads('pages/p', ['post', 'posts'])
    expect(reads.map((one) => [one.path.join('.'), one.template])).toEqual([
      ['title', 'partials/p34'],
      ['title', 'partials/p35'],
    ])
    expect([...whole]).toEqual([])
    expect(set.names('pages/p')).toEqual({
      all: new Set(['post']),
      outsideFragments: new Set(['post']),
    })
  })
  it('are followed to a limited depth; beyond, everything counts as read', () => {
    const { whole } = read(page, ladder(60))
    expect(whole.sort()).toEqual(['post', 'posts'])
  })
  it('are followed on paths of limited length; beyond, everything counts as read', () => {
    const forking = Object.fromEntries(
      Array.from({ length: 20 }, (_, index) => [
        `partials/p${index}`,
        index < 19
          ? `{% render 'partials/p${index + 1}', it: it.a %}{% render 'partials/p${index + 1}', it: it.b %}`
          : '{{ it.title }}',
      ]),
    )
    expect(read(page, forking).whole).toContain('post')
  })
  it('are refused if they form a cycle', () => {
    const sources = { ...ladder(40), 'partials/p39': "{% render 'partials/p7' %}" }
    const { problems } = TemplateSet.of(new Map(Object.entries(sources)), 'UTC')
    expect(problems).toContainEqual(
      expect.objectContaining({
        code: 'template-renders-itself',
        message: expect.stringMatching(/: partials\/p39 → partials\/p7 → .* → partials\/p39\.$/) as string,
      }),
    )
  })
})

function field() {
  return fc.constantFrom(...FIELDS)
}
