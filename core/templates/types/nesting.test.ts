// Elements that templates do not close: in branches, loops, blocks and partials. What may be right is not reported.
import { describe, expect, it } from 'vitest'
import { TemplateSet } from '../set.ts'
import { Nesting, nestingFaults } from './nesting.ts'

/** @param others more templates by name */
const faults = (text: string, others: Readonly<Record<string, string>> = {}, name = 'pages/a') => {
  const set = TemplateSet.of(new Map(Object.entries({ ...others, [name]: text })), 'UTC')
  return nestingFaults(new Nesting((one) => set.tree(one)), name).map(
    ({ tag, place, message }) => `${place.line}:${place.column} ${tag} ${message.replace(/^<\S+> /, '')}`,
  )
}

describe('a fault', () => {
  it.each<[string, string[]]>([
    ['<div><b>a</div>', ['1:6 <b> is not closed before </div>.']],
    ['<div>\n<section>a</section>', ['1:1 <div> is not closed.']],
    ['<div>a</div></div>', ['1:13 </div> closes nothing.']],
    ['{% if a %}<div>{% endif %}', ['1:11 <div> is not closed.']],
    ['<ul>{% for a in b %}<li><b>a</li>{% endfor %}</ul>', ['1:25 <b> is not closed before </li>.']],
    ['{% for a in b %}<div>{{ a }}{% endfor %}', ['1:17 <div> is not closed in the loop.']],
    ['{% for a in b %}x{% else %}<div>{% endfor %}', ['1:28 <div> is not closed.']],
    [
      '<div>{% if a %}<b>x</b>{% elsif c %}<i>y{% else %}z{% endif %}</div>',
      ['1:37 <i> is not closed before </div>.'],
    ],
    ['<a href="{{ x }}"{% if y %} class="b"{% endif %}>z', ['1:1 <a> is not closed.']],
    ['{% case a %}{% when 1 %}<div></div>{% else %}<div>{% endcase %}', ['1:46 <div> is not closed.']],
    [
      '{% if o %}x{% else %}<div>{% if s %}<ul></ul>{% if p %}<nav>{% endif %}{% endif %}</div>{% endif %}',
      ['1:56 <nav> is not closed before </div>.'],
    ],
    ['<!-- <div> --><p title="<div>">a</p><span>', ['1:37 <span> is not closed.']],
    ['<script>if (a < b) x = "<div>"</script><em>', ['1:40 <em> is not closed.']],
  ])('in %s', (text, expected) => expect(faults(text)).toEqual(expected))

  it('in a block of a page, and in a layout', () => {
    const base = '<html><body>{% block main %}{% endblock %}</body></html>'
    const page = "{% layout 'layouts/base' %}\n{% block main %}\n<div>\n{% endblock %}"
    expect(faults(page, { 'layouts/base': base })).toEqual(['3:1 <div> is not closed.'])
    expect(faults('<html><body><div></body></html>', {}, 'layouts/base')).toEqual([
      '1:13 <div> is not closed before </body>.',
    ])
  })
})

describe('no fault', () => {
  it.each([
    '<p>a<p>b<ul><li>c<li>d</ul>',
    '<table><tr><td>a<tr><td>b</table>',
    '<br><img src="a"><input><hr/>',
    '<svg><path d="M0"/></svg>',
    // Conditions that go together.
    '{% if a %}<a href="b">{% endif %}x{% if a %}</a>{% endif %}',
    '{% if a %}<div>{% else %}<section>{% endif %}x{% if a %}</div>{% else %}</section>{% endif %}',
    '{% for a in b %}{% if forloop.first %}<div>{% endif %}x{% if forloop.last %}</div>{% endif %}{% endfor %}',
    // A tag whose name is printed.
    '<h{{ level }}>a</h{{ level }}>',
    '<ul>{% for a in b %}<li>a</li></ul><ul>{% endfor %}</ul>',
    '<option{% if a %} selected{% endif %}>x</option>',
    '<textarea><div></textarea>',
    '{% capture x %}<div>{% endcapture %}{{ x }}',
    'a < b and c > d',
    '<DIV></div>',
  ])('in %s', (text) => expect(faults(text)).toEqual([]))

  it('in a partial that another one closes, or in what renders both', () => {
    const others = { 'partials/open': '<div class="a">', 'partials/close': '</div>' }
    const page = "{% render 'partials/open' %}x{% render 'partials/close' %}"
    expect(faults(page, others)).toEqual([])
    expect(faults('<div class="a">', {}, 'partials/open')).toEqual([])
    expect(faults('</div>', {}, 'partials/close')).toEqual([])
  })
  it('in templates that render themselves, or that do not exist', () => {
    expect(faults("{% render 'pages/a' %}")).toEqual([])
    expect(faults("<div>{% render 'partials/none' %}</div>")).toEqual([])
  })
})

it('templates with very many combinations of branches are followed up to a limit', () => {
  const branch = (inner: string) =>
    `{% if a %}<b>${inner}{% elsif b %}<i>${inner}{% else %}<u>${inner}{% endif %}`
  let text = ''
  for (let depth = 0; depth < 30; depth++) text = branch(text.slice(0, 20_000))
  expect(faults(`<div>${text}`)).toEqual([])
  const chain = Object.fromEntries(
    Array.from({ length: 9 }, (_, level) => [
      `partials/p${level}`,
      level === 8 ? 'x' : `{% render 'partials/p${level + 1}' %}`.repeat(20),
    ]),
  )
  expect(faults("<div>{% render 'partials/p0' %}{{ a }}", chain)).toEqual(['1:1 <div> is not closed.'])
})
