// Rendering, held against liquidjs: what it parses, it renders in the same way, to the byte.
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { FragmentSession } from '../../caching/session.ts'
import { WHOLE_LIST } from '../../content/html/allow-list.ts'
import { SafeHtml } from '../../content/html/safe-html.ts'
import { randomTemplate } from '../../testing/random-template.ts'
import { referenceEngine } from '../../testing/reference-engine.ts'
import { RenderData, type RenderServices } from '../scope.ts'
import { TemplateSet } from '../set.ts'
import { NO_TEMPLATE_TRACER } from '../tracer.ts'
import { ownFilters } from './filters.ts'

const DATA = {
  a: 1,
  b: 'text & <b>',
  c: { d: { e: 'deep' }, 'f g': 'spaced' },
  list: [
    { n: 3, t: 'three' },
    { n: 1, t: 'one' },
    { n: 2, t: null },
  ],
  words: ['pear', 'fig', 'apple', 'fig'],
  none: [],
  no: null,
  yes: true,
  html: new SafeHtml('<i>safe</i>'),
  at: new Date('2026-03-02T09:00:00Z'),
  key: 'd',
}
const GLOBALS = { blog: { title: 'Cobble Lane' }, shared: 'for all' }

function servicesFor(data: object): RenderServices {
  const loaded = new RenderData(Object.keys(data), (name) => name)
  for (const [name, value] of Object.entries(data))
    loaded.provide(name, { value, dependence: { rows: new Map(), sets: new Map(), timed: false } as never })
  return {
    data: loaded,
    definition: { state: () => '1' },
    fragments: new FragmentSession(undefined, 0),
    refreshOf: () => 'both',
    described: {
      blog: { title: 'Blog', tagline: '', origin: '', language: 'en' },
      addressOf: () => undefined,
    },
    now: new Date('2026-11-24T12:00:00Z'),
    url: (route, given) => ({ ok: true, path: `/${route}/${JSON.stringify(given)}` }),
    asset: (name) => `/assets/${name}`,
    request: { path: '/x', search: new URLSearchParams('page=2') },
    tracer: NO_TEMPLATE_TRACER,
    processorTime: () => 0,
  }
}

/** Renders a page by the program, and by liquidjs; undefined where it fails. */
function both(sources: Readonly<Record<string, string>>): [string | undefined, string | undefined] {
  const all = new Map(Object.entries(sources))
  const set = TemplateSet.of(all, 'Europe/London', WHOLE_LIST, {})
  const reference = referenceEngine(all, ownFilters('Europe/London', WHOLE_LIST, {}))
  const services = servicesFor(DATA)
  const attempt = (render: () => string): string | undefined => {
    try {
      return render()
    } catch {
      return undefined
    }
  }
  return [
    attempt(() => set.render('pages/p', Object.keys(DATA), { ...GLOBALS }, services)),
    // liquidjs counts in the data.
    attempt(() => reference('pages/p', { ...DATA }, { ...GLOBALS }, services)),
  ]
}

const PARTIALS = {
  'partials/item':
    '<{{ item.n }}{{ item }}{{ x }}{{ forloop.index }}{{ shared }}{{ a }}{% assign x = "own" %}{{ x }}>',
  'partials/outer': '({% render "partials/item", item: item, x: b %}{% render "partials/item", x: item.n %})',
  'layouts/base':
    '<head>{% block title %}{{ blog.title }}{{ kind }}{% endblock %}</head>{% block main %}none{% endblock %}{% for one in words %}{% block each %}[{{ one }}]{% endblock %}{% endfor %}{{ set }}',
  'layouts/inner':
    '{% layout "layouts/base", kind: "inner" %}{% block main %}<main>{% block text %}{% endblock %}</main>{% endblock %}',
}

describe('a template is rendered as liquidjs renders it', () => {
  it.each([
    '{{ a }} {{ b }} {{ c.d.e }} {{ c["f g"] }} {{ c[key].e }} {{ no.x.y }} {{ unknown }}',
    '{{ list[0].n }} {{ list[-1].n }} {{ list.size }} {{ list.first.n }} {{ list.last.n }} {{ b.size }} {{ c.size }}',
    '{{ "x" }} {{ 1.5 }} {{ true }} {{ false }} {{ nil }} {{ empty }} {{ (1..4) | join: "-" }} {{ b.length }}',
    '{{ b | upcase | append: "!" | replace: "T", "t" }} {{ no | default: "none" }} {{ a | plus: 2 | times: a }}',
    '{{ list | map: "n" | sort | join: "," }} {{ list | where: "n", 1 | map: "n" }} {{ b | slice: 1, 2 }}',
    '{{ list | where: "t" | size }} {{ list | group_by: "n" | map: "name" | join }} {{ list | find: "n", 2 | json }} {{ list | sum: "n" }}',
    '{{ list | where_exp: "x", "x.n > a" | map: "n" | join }} {{ list | reject_exp: "x", "x.n == 1" | size }} {{ list | has_exp: "x", "x.n == 3" }} {{ list | find_index_exp: "x", "x.n == 2" }} {{ words | group_by_exp: "w", "w | size" | map: "name" | join }}',
    '{% if a == 1 and b contains "ex" or no %}y{% else %}n{% endif %}{% unless yes %}n{% else %}y{% endunless %}',
    '{% if not no %}y{% endif %}{% if none == empty %}n{% elsif empty == empty %}y{% endif %}{% if a > 0 %}y{% endif %}{% if words contains "fig" %}y{% endif %}',
    '{% unless no %}a{% elsif yes %}b{% endunless %}{% unless yes %}a{% elsif yes %}b{% else %}c{% endunless %}',
    '{% for one in list reversed %}{{ forloop.index }}:{{ one.n }}{% unless forloop.last %},{% endunless %}{% endfor %}',
    '{% for one in none %}x{% else %}none{% endfor %}{% for i in (1..5) %}{% if i == 3 %}{% break %}{% endif %}{{ i }}{% endfor %}',
    '{% for i in (1..6) limit: 2 %}{{ i }}{% endfor %}{% for i in (1..6) offset: continue limit: 2 %}{{ i }}{% endfor %}{% for i in (1..6) offset: continue %}{{ i }}{% endfor %}',
    '{% for i in (1..3) %}{% for i in words %}{{ i }}{% assign i = 7 %}{% endfor %}{{ i }}{% endfor %}{{ i }}',
    '{% for one in c %}{{ one[0] }}{% endfor %}{% for letter in b %}{{ letter }}{% endfor %}{% for x in no %}{% endfor %}',
    '{% assign x = c.d.e | upcase %}{{ x }}{% capture y %}<{{ b }}>{% endcapture %}{{ y }}{% echo y | upcase %}',
    '{% case a %}{% when 2 %}two{% when 1, 3 %}one{% when 1 %}again{% else %}other{% endcase %}{% case b %}{% when 1 or 2 %}{% else %}o{% endcase %}',
    '{% comment %}x{% endcomment %}{% raw %}{{ a }}{% endraw %}{% # a note %}  {%- if yes -%}  trimmed  {%- endif -%}  ',
    '{% increment n %}{% increment n %}{{ n }}{% decrement n %}{% increment a %}{{ a }}{% cycle "a", "b" %}{% cycle "a", "b" %}{% cycle "g": "a", b %}',
    '{% tablerow w in words cols: 2 %}{{ tablerowloop.col }}{{ w }}{% endtablerow %}{% tablerow w in words offset: 1 limit: 2 %}{{ w }}{% endtablerow %}',
    '{% liquid\n  assign q = 3\n  for i in (1..q)\n    echo i\n  endfor\n%}',
    '{% render "partials/item", item: list[0], x: b %}{% render "partials/item" with list[1] as item %}{% render "partials/item" for list as item, x: 1 %}{% render "partials/outer", item: a %}{{ x }}',
    '{% for i in (1..3) %}{% render "partials/item", item: i %}{% if i == 2 %}{% continue %}{% endif %}{{ i }}{% endfor %}',
    '{% layout "layouts/base" %}{% block title %}{{ b }}{% endblock %}{% assign set = 4 %}outside{% block each %}{{ one }}{{ forloop.index }}{% endblock %}',
    '{% layout "layouts/inner" %}{% block text %}{% assign set = "s" %}text{% endblock %}{% block title %}t{% endblock %}',
    '{% layout none %}{% block main %}plain{% endblock %}',
    '{{ html }}{{ html | raw }}{{ at }}{{ at | date: "%-d %B" }}{{ words }}{{ list }}{% fragment "f", lifetime: "1h" %}{{ b }}{% endfragment %}',
    '{{ "post" | url: slug: b, n: 1 }}{{ "/x" | url_with: page: 3 }}{{ "a.css" | asset }}{{ b | excerpt: 3 }}{{ 500 | reading_minutes }}{{ at | ago }}',
    '{% capture c %}{% for i in (1..3) %}{% if i == 2 %}{% break %}{% endif %}{{ i }}{% endfor %}{% endcapture %}{{ c }}{% for i in (1..3) %}{% capture d %}{{ i }}{% continue %}{% endcapture %}{{ d }}{% endfor %}{{ d }}',
    '{{ forloop }}{% for i in (1..2) %}{{ forloop }}{{ forloop.length }}{{ forloop.rindex }}{{ forloop.nothing }}{% endfor %}',
    '{{ b | nofilter }}',
    '{{ a | divided_by: 0 }}{{ b | raw }}',
  ])('%s', (text) => {
    const [program, reference] = both({ ...PARTIALS, 'pages/p': text })
    expect(program).toBe(reference)
  })

  it('also thousands of random ones', () => {
    let rendered = 0
    fc.assert(
      fc.property(randomTemplate(), (sources) => {
        const [program, reference] = both(sources)
        expect(program).toBe(reference)
        if (reference !== undefined && reference.length > 0) rendered++
      }),
      { numRuns: 2_000 },
    )
    // Most of them are valid, and print something.
    expect(rendered).toBeGreaterThan(1_000)
  })
})
