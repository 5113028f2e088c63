// Direct rendering against the interpreter of liquidjs, which it stands in for.
import fc from 'fast-check'
import { Liquid } from 'liquidjs'
import { describe, expect, it } from 'vitest'
import type { RenderServices } from '../scope.ts'
import { makeDirect, renderDirectly } from './direct.ts'
import { withServices } from './services.ts'

/** Plain templates need no other service. */
const SERVICES = { processorTime: () => 0 } as unknown as RenderServices

const scope = {
  a: 1,
  b: 'text',
  c: { d: { e: 'deep' }, 'f g': 'spaced' },
  list: [{ n: 3 }, { n: 1 }, { n: 2 }],
  empty: [] as unknown[],
  no: null,
  yes: true,
  key: 'd',
}

function both(text: string): [string, string] {
  const interpreted = new Liquid()
  const direct = new Liquid()
  renderDirectly(direct)
  const render = (engine: Liquid, prepare: boolean): string => {
    try {
      const templates = engine.parse(text)
      if (prepare) makeDirect(templates)
      return String(
        engine.renderSync(templates, structuredClone(scope), { globals: withServices({}, SERVICES) }),
      )
    } catch (error) {
      return error instanceof Error ? error.name : 'failed'
    }
  }
  return [render(direct, true), render(interpreted, false)]
}

describe('makeDirect', () => {
  it.each([
    '{{ a }} {{ b }} {{ c.d.e }} {{ c["f g"] }} {{ c[key].e }} {{ no.x.y }} {{ unknown }}',
    '{{ list[0].n }} {{ list[-1].n }} {{ list.size }} {{ list.first.n }} {{ list.last.n }} {{ b.size }}',
    '{{ "x" }} {{ 1.5 }} {{ true }} {{ nil }} {{ (1..4) | join: "-" }}',
    '{{ b | upcase | append: "!" | replace: "T", "t" }} {{ no | default: "none" }} {{ a | plus: 2 | times: a }}',
    '{{ list | map: "n" | sort | join: "," }} {{ list | where: "n", 1 | map: "n" }} {{ b | slice: 1, 2 }}',
    '{% if a == 1 and b contains "ex" or no %}y{% else %}n{% endif %}{% unless yes %}n{% else %}y{% endunless %}',
    '{% if not no %}y{% endif %}{% if list == empty %}n{% elsif empty == empty %}y{% endif %}{% if a > 0 %}y{% endif %}',
    '{% for one in list reversed %}{{ forloop.index }}:{{ one.n }}{% unless forloop.last %},{% endunless %}{% endfor %}',
    '{% for one in empty %}x{% else %}none{% endfor %}{% for i in (1..5) %}{% if i == 3 %}{% break %}{% endif %}{{ i }}{% endfor %}',
    '{% assign x = c.d.e | upcase %}{{ x }}{% capture y %}<{{ x }}>{% endcapture %}{{ y }}{% echo y %}',
    '{% case a %}{% when 2 %}two{% when 1, 3 %}one{% endcase %}{% comment %}x{% endcomment %}{% raw %}{{ a }}{% endraw %}',
    '  {%- if yes -%}  trimmed  {%- endif -%}  ',
    '{% increment n %}{% increment n %}{% cycle "a", "b" %}{% cycle "a", "b" %}',
  ])('%s', (text) => {
    const [direct, interpreted] = both(text)
    expect(direct).toBe(interpreted)
  })

  it('agrees on random expressions', () => {
    const value = fc.constantFrom(
      'a',
      'b',
      'c.d.e',
      'list',
      'empty',
      'no',
      'yes',
      'unknown.x',
      '"text"',
      '1',
      'nil',
      'list[1].n',
      'b.size',
    )
    const operator = fc.constantFrom('==', '!=', '<', '>=', 'contains', 'and', 'or')
    const filter = fc.constantFrom(
      '| size',
      '| upcase',
      '| first',
      '| default: "z"',
      '| join: "/"',
      '| plus: 1',
      '| append: b',
      '',
    )
    const condition = fc.tuple(value, operator, value, operator, value).map((parts) => parts.join(' '))
    fc.assert(
      fc.property(condition, value, filter, filter, (when, printed, one, two) => {
        const [direct, interpreted] = both(
          `{% if ${when} %}{{ ${printed} ${one} ${two} }}{% else %}no{% endif %}`,
        )
        expect(direct).toBe(interpreted)
      }),
      { numRuns: 400 },
    )
  })
})
