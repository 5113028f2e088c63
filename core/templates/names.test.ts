// Which names templates read: held against liquidjs's own analysis, and cases in which ours must be stricter.
import fc from 'fast-check'
import { analyzeSync, Liquid } from 'liquidjs'
import { describe, expect, it } from 'vitest'
import { treeOf } from './liquid/parse.ts'
import { namesRead } from './names.ts'

function both(sources: Record<string, string>): { ours: string[]; theirs: string[] } {
  const engine = new Liquid({ templates: sources })
  const parsed = new Map(Object.entries(sources).map(([name, text]) => [name, engine.parse(text, name)]))
  const page = parsed.get('p') ?? []
  const find = (name: string) => treeOf(parsed.get(name) ?? [])
  return {
    ours: [...namesRead(treeOf(page), find, { fragments: 'follow' })].sort(),
    theirs: Object.keys(analyzeSync(page, { partials: true }).globals).sort(),
  }
}

describe('names are the same as in liquidjs’s analysis', () => {
  it.each<[string, Record<string, string>?]>([
    ['{{ a }}{{ b.c[d.e] }}{{ "x" | append: f }}'],
    ['{% for x in xs %}{{ x.y }}{{ forloop.index }}{{ z }}{% endfor %}{{ x }}'],
    ['{% assign a = b | plus: c %}{{ a }}'],
    ['{% capture a %}{{ b }}{% endcapture %}{{ a }}'],
    ['{% if a == b and c %}{{ d }}{% elsif e %}{{ f }}{% else %}{{ g }}{% endif %}'],
    ['{% unless a %}{{ b }}{% endunless %}{% case c %}{% when d, 1 %}{{ e }}{% else %}{{ f }}{% endcase %}'],
    ['{% tablerow x in xs cols: n %}{{ x }}{% endtablerow %}'],
    ['{% for i in (a..b) limit: c offset: d %}{{ i }}{% else %}{{ e }}{% endfor %}'],
    ['{% cycle a, b %}{% echo c %}{% raw %}{{ d }}{% endraw %}{% comment %}{{ e }}{% endcomment %}'],
    ['{% render "q", x: a %}{{ b }}', { q: '{{ x.y }}{{ site }}' }],
    ['{% render "q" with a as x %}{% render "q" for as as x %}', { q: '{{ x }}' }],
    [
      '{% layout "l" %}{% block m %}{{ a }}{% endblock %}',
      { l: '{{ t }}{% block m %}{{ b }}{% endblock %}' },
    ],
  ])('%s', (page, more = {}) => {
    const { ours, theirs } = both({ p: page, ...more })
    expect(ours).toEqual(theirs)
  })

  it('and include them in random templates', () => {
    const name = fc.constantFrom('a', 'b', 'c', 'x')
    const leaf = fc.oneof(
      name.map((one) => `{{ ${one}.t }}`),
      fc.tuple(name, name).map(([to, from]) => `{% assign ${to} = ${from} %}`),
      name.map((one) => `{% render 'q', x: ${one} %}`),
      fc.tuple(name, name).map(([to, from]) => `{% capture ${to} %}{{ ${from} }}{% endcapture %}`),
    )
    const body = fc.array(leaf, { minLength: 1, maxLength: 3 }).map((parts) => parts.join(''))
    const statement = fc.oneof(
      leaf,
      fc.tuple(name, name, body).map(([x, xs, inner]) => `{% for ${x} in ${xs} %}${inner}{% endfor %}`),
      fc.tuple(name, body, body).map(([one, yes, no]) => `{% if ${one} %}${yes}{% else %}${no}{% endif %}`),
    )
    fc.assert(
      fc.property(fc.array(statement, { maxLength: 6 }), body, (parts, partial) => {
        // A partial must not render itself. It reads its argument: ours leaves out arguments that are not read.
        const q = `{{ x }}${partial.replace(/{% render .*? %}/g, '')}`
        const { ours, theirs } = both({ p: parts.join(''), q })
        expect(ours).toEqual(expect.arrayContaining(theirs))
      }),
      { numRuns: 500 },
    )
  })
})

describe('a name counts as read unless it is certainly a local', () => {
  it.each([
    ['{% if a %}{% assign posts = b %}{% endif %}{{ posts }}', ['a', 'b', 'posts']],
    ['{% for x in xs %}{% assign posts = x %}{% endfor %}{{ posts }}', ['posts', 'xs']],
    ['{% assign posts = b %}{{ posts }}', ['b']],
  ])('%s', (page, names) => {
    expect(both({ p: page }).ours).toEqual(names)
  })

  it('arguments count if the partial reads them', () => {
    expect(both({ p: '{% render "q", x: a, y: b %}', q: '{{ x }}' }).ours).toEqual(['a'])
  })
})
