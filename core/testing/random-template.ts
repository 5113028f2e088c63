/** Random templates: pages with a layout and partials, of every tag, over the data `a`, `b`, `c`, `list`, `words` … */
import fc from 'fast-check'

/** Random values, in which names of loops and assignments occur too. */
const value = fc.constantFrom(
  ...[
    'a',
    'b',
    'c',
    'c.d.e',
    'c[key].e',
    'list',
    'list.size',
    'list[1].n',
    'list.first',
    'words',
    'words[-1]',
  ],
  ...[
    'none',
    'no',
    'yes',
    'no.x',
    'unknown',
    'html',
    'at',
    'blog.title',
    'shared',
    'x',
    'y',
    'i',
    'i.n',
    'i.t',
  ],
  ...['item', 'item.n', 'forloop.index', 'forloop.last', 'n', '"text"', "'<q>'", '""', '7'],
  ...['-1', '2.5', 'true', 'false', 'nil', 'empty', 'blank', '(1..3)', '(a..3)'],
)

const filter = fc.oneof(
  fc.constantFrom(
    ...[
      'size',
      'upcase',
      'downcase',
      'first',
      'last',
      'join: "/"',
      'sort',
      'reverse',
      'uniq',
      'compact',
      'abs',
    ],
    ...['capitalize', 'strip', 'escape', 'escape_once', 'strip_html', 'newline_to_br', 'split: "t"', 'floor'],
    ...['map: "n"', 'where: "n", 2', 'where: "t"', 'sum: "n"', 'group_by: "n"', 'find: "n", 3', 'sort: "n"'],
    ...[
      "where_exp: 'e', 'e.n > a'",
      "find_exp: 'e', 'e.n == 1'",
      "group_by_exp: 'e', 'e.n | plus: i'",
      'json',
    ],
    ...[
      'truncate: 5',
      'truncatewords: 1',
      'slice: 1, 2',
      'url_encode',
      'date: "%Y-%m-%d"',
      'ago',
      'excerpt: 4',
    ],
    ...[
      'reading_minutes',
      'raw',
      'markdown',
      'at_most: 2',
      'round',
      'ceil',
      'default: "d", allow_false: true',
    ],
  ),
  fc
    .tuple(
      fc.constantFrom(
        ...[
          'default',
          'append',
          'prepend',
          'plus',
          'minus',
          'times',
          'divided_by',
          'modulo',
          'concat',
          'push',
        ],
        ...['replace: "t",', 'remove', 'at_least', 'has: "n",', 'slice', 'truncate'],
      ),
      value,
    )
    .map(([name, given]) => (name.endsWith(',') ? `${name} ${given}` : `${name}: ${given}`)),
)

const filtered = fc
  .tuple(value, fc.array(filter, { maxLength: 2 }))
  .map(([one, filters]) => [one, ...filters].join(' | '))

const condition = fc
  .array(
    fc.tuple(
      fc.constantFrom('', 'not '),
      value,
      fc.constantFrom('==', '!=', '<', '>', '<=', '>=', 'contains', 'and', 'or'),
    ),
    { minLength: 0, maxLength: 2 },
  )
  .chain((terms) =>
    value.map((last) => [...terms.map(([not, one, operator]) => `${not}${one} ${operator}`), last].join(' ')),
  )

const name = fc.constantFrom('x', 'y', 'a', 'i', 'item')
const dash = fc.constantFrom('', '', '', '-')

const tagged = (open: string, close: string, inner: string) => `{%${open} ${inner} ${close}%}`

interface Nodes {
  nodes: string
  node: string
  inLoop: string
}

const { nodes } = fc.letrec<Nodes>((tie: fc.LetrecTypedTie<Nodes>) => ({
  nodes: fc.array(tie('node'), { maxLength: 3, size: 'small' }).map((all) => all.join('')),
  /** The body of a loop, which may end it. */
  inLoop: fc
    .tuple(tie('nodes'), condition, fc.constantFrom('', '', 'break', 'continue'), tie('nodes'))
    .map(([before, when, jump, after]) =>
      jump === '' ? before : `${before}{% if ${when} %}{% ${jump} %}{% endif %}${after}`,
    ),
  node: fc.oneof(
    { maxDepth: 3, depthSize: 'small' },
    fc.constantFrom(' text ', '\n', '<p>', '&amp; ', '\n  '),
    fc.tuple(dash, filtered, dash).map(([open, one, close]) => `{{${open} ${one} ${close}}}`),
    fc.tuple(name, filtered).map(([one, as]) => `{% assign ${one} = ${as} %}`),
    fc.tuple(dash, filtered).map(([open, one]) => tagged(open, '', `echo ${one}`)),
    fc.constantFrom(
      '{% increment n %}',
      '{% decrement n %}',
      '{% increment a %}',
      '{% cycle "p", b, i %}',
      '{% cycle "g": 1, 2 %}',
      '{% comment %}{{ a }}{% endcomment %}',
      '{% raw %}{{ a }}{% endraw %}',
      '{% # note %}',
      '{% liquid\n assign x = a | plus: 1\n echo x %}',
    ),
    fc
      .tuple(
        fc.constantFrom('partials/one', 'partials/two'),
        fc.constantFrom(
          '',
          ', item: list[0]',
          ', item: i, x: b',
          ' with words as item',
          ' for list as item',
          ', x',
        ),
      )
      .map(([partial, given]) => `{% render "${partial}"${given} %}`),
    fc
      .tuple(
        condition,
        tie('nodes'),
        condition,
        tie('nodes'),
        tie('nodes'),
        fc.constantFrom('if', 'unless'),
        dash,
      )
      .map(
        ([one, body, two, second, rest, tag, close]) =>
          `${tagged('', close, `${tag} ${one}`)}${body}{% elsif ${two} %}${second}{% else %}${rest}{% end${tag} %}`,
      ),
    fc
      .tuple(filtered, value, tie('nodes'), value, value, tie('nodes'), tie('nodes'))
      .map(
        ([subject, one, first, two, three, second, rest]) =>
          `{% case ${subject} %}{% when ${one} %}${first}{% when ${two}, ${three} %}${second}{% else %}${rest}{% endcase %}`,
      ),
    fc
      .tuple(
        name,
        value,
        fc.constantFrom(
          '',
          '',
          ' limit: 2',
          ' offset: 1',
          ' reversed',
          ' limit: a offset: 1',
          ' offset: continue',
        ),
        tie('inLoop'),
        tie('nodes'),
      )
      .map(
        ([one, of, modifiers, body, rest]) =>
          `{% for ${one} in ${of}${modifiers} %}${body}{% else %}${rest}{% endfor %}`,
      ),
    fc
      .tuple(name, value, fc.constantFrom('', ' cols: 2', ' limit: 2 offset: 1'), tie('nodes'))
      .map(
        ([one, of, modifiers, body]) => `{% tablerow ${one} in ${of}${modifiers} %}${body}{% endtablerow %}`,
      ),
    fc.tuple(name, tie('nodes')).map(([one, body]) => `{% capture ${one} %}${body}{% endcapture %}`),
    // What a fragment assigns and counts stays inside, as liquidjs knows no fragments.
    filtered.map((one) => `{% fragment 'f', lifetime: '1h' %}<i>{{ ${one} }}{% endfragment %}`),
  ),
}))

/** The partials render nothing else, so none renders itself. */
const partial = fc
  .tuple(filtered, name, filtered, condition)
  .map(
    ([one, as, two, when]) =>
      `<{{ ${one} }}{{ item }}{{ item.n }}{{ forloop.index }}{% assign ${as} = ${two} %}{% if ${when} %}{{ x }}{% endif %}{{ ${as} }}>`,
  )

const layout = fc
  .tuple(nodes, nodes, nodes)
  .map(
    ([before, inside, after]) =>
      `${before}{% block title %}${inside}{% endblock %}${after}{% for i in words %}{% block each %}{{ i }}{% endblock %}{% endfor %}{% block main %}{% endblock %}{{ x }}`,
  )

const page = fc.oneof(
  nodes,
  fc
    .tuple(nodes, fc.constantFrom('', ', x: b', ', item: list'), nodes, nodes)
    .map(
      ([title, given, main, outside]) =>
        `{% layout "layouts/base"${given} %}{% block title %}${title}{% endblock %}${outside}{% block main %}${main}{% endblock %}`,
    ),
)

/** Returns the templates of a random page by their names; the page is `pages/p`. */
export const randomTemplate = (): fc.Arbitrary<Record<string, string>> =>
  fc.record({
    'pages/p': page,
    'layouts/base': layout,
    'partials/one': partial,
    'partials/two': partial,
  })
