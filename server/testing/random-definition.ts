/** Random definitions of blogs: queries of every kind, and templates with loops, assignments, partials and fragments. */
import fc from 'fast-check'
import { SOURCE, type Field } from '../../core/queries/sources.ts'
import { readMeaning } from '../../core/queries/meaning.ts'
import type { Query, SourceName } from '../../core/shapes/schemas.ts'

const SOURCES = Object.keys(SOURCE) as SourceName[]

/** Values that occur in the random rows, so that conditions match some of them. */
export const TEXTS = ['kettle', 'lamp', 'glue and lamp', 'moth', 'Kettle']
export const SLUGS = ['s1', 's2', 's3', 's4', 's5']
export const TIMES = [
  '2026-01-05T10:00:00Z',
  '2026-03-01T00:00:00Z',
  '2026-03-01T09:30:00Z',
  '2025-12-31T23:59:59Z',
]

const valueOf = ({ type }: Field): fc.Arbitrary<string | number | boolean> => {
  switch (type) {
    case 'integer':
      return fc.constantFrom(0, 1, 2, 3, 2026)
    case 'boolean':
      return fc.boolean()
    case 'time':
      return fc.constantFrom(...TIMES)
    case 'slug':
    case 'path':
      return fc.constantFrom(...SLUGS)
    default:
      return fc.constantFrom(...TEXTS)
  }
}

/** The fields of a source and of its related rows. */
function fieldsOf(source: SourceName): [string, Field][] {
  const { fields, relations } = SOURCE[source]
  const related = Object.entries(relations).flatMap(([relation, { source: target }]) =>
    target === 'images'
      ? []
      : Object.entries(SOURCE[target].fields).map(([name, field]): [string, Field] => [
          `${relation}.${name}`,
          field,
        ]),
  )
  return [...Object.entries(fields), ...related].filter(([, { type }]) => type !== 'relevance')
}

const condition = (source: SourceName): fc.Arbitrary<unknown> => {
  const plain = fc.constantFrom(...fieldsOf(source)).chain(([field, kind]) =>
    fc
      .tuple(
        kind.type === 'words'
          ? fc.constant('matches')
          : fc.constantFrom(
              'equal',
              'equal',
              'not-equal',
              'less',
              'at-least',
              'in',
              'contains',
              'set',
              'unset',
              'within',
            ),
        valueOf(kind),
        fc.constantFrom('fixed', ':p', ':q'),
      )
      .map(([is, value, how]) => {
        if (is === 'set' || is === 'unset') return { field, is }
        if (is === 'in') return { field, is, to: [value] }
        const isText = ['text', 'slug', 'path', 'words'].includes(kind.type)
        if (how === 'fixed' || !isText) return { field, is, to: value }
        return { field, is, to: how, ...(how === ':q' ? { when: 'given' } : {}) }
      }),
  )
  const names = Object.entries(SOURCE[source].conditions).flatMap(([name, { internal }]) =>
    internal ? [] : [name],
  )
  const named = names.length > 0 ? [fc.constantFrom(...names)] : []
  const leaf = fc.oneof({ weight: 3, arbitrary: plain }, ...named)
  return fc.oneof(
    { weight: 4, arbitrary: leaf },
    { weight: 1, arbitrary: fc.array(leaf, { minLength: 2, maxLength: 3 }).map((any) => ({ any })) },
    { weight: 1, arbitrary: leaf.map((not) => ({ not })) },
  )
}

const isOrderable = (source: SourceName, name: string, { long, type }: Field) => {
  const relation = SOURCE[source].relations[name.split('.')[0] ?? '']
  return !long && type !== 'words' && !(name.includes('.') && relation?.many)
}

/** A query that is valid. */
const randomQuery: fc.Arbitrary<Query> = fc
  .constantFrom<SourceName>('posts', 'posts', 'posts', 'posts', ...SOURCES)
  .chain((from) => {
    const { relations, counts } = SOURCE[from]
    const fields = fieldsOf(from)
    const orderable = [
      ...fields.flatMap(([name, one]) => (isOrderable(from, name, one) ? [name] : [])),
      ...Object.keys(counts),
    ]
    const grouped = fields.flatMap(([name, { long, type }]) =>
      long || ['words', 'time'].includes(type) ? [] : [name],
    )
    const where = fc.array(condition(from), { maxLength: 2 })
    const order = fc.uniqueArray(
      fc.tuple(fc.constantFrom('', '-'), fc.constantFrom(...orderable)).map((one) => one.join('')),
      { maxLength: 2, selector: (one) => one.replace('-', '') },
    )
    const rows = fc
      .record({
        with: fc.subarray([...Object.keys(relations), ...Object.keys(counts)]),
        where,
        order,
        take: fc.constantFrom('one', 'one', 'first 1', 'first 2', 'all', 'pages', 'pages'),
        by: fc.constantFrom('number', 'cursor'),
        end: fc.constantFrom('not-found', 'last', 'empty'),
        empty: fc.constantFrom('allow', 'allow', 'allow', 'not-found'),
      })
      .map(({ by, end, ...query }): unknown => {
        if (query.take !== 'pages') return { from, ...query }
        return { from, ...query, pages: { size: 2, by, ...(by === 'number' ? { 'past-the-end': end } : {}) } }
      })
    const counting = fc
      .record({ where, by: fc.uniqueArray(fc.constantFrom(...grouped), { minLength: 1, maxLength: 2 }) })
      .map(({ where: conditions, by }): unknown => ({ from, where: conditions, take: 'all', 'count-by': by }))
    return fc.oneof({ weight: 9, arbitrary: rows }, { weight: 1, arbitrary: counting })
  })
  .map((query) => query as Query)
  .filter((query) => readMeaning(query).ok)

const DATA = ['one', 'two', 'three']
const FIELDS = [
  'id',
  'title',
  'name',
  'slug',
  'excerpt',
  'publishedAt',
  'updatedAt',
  'createdAt',
  'wordCount',
  'commentCount',
  'postCount',
  'postCountWithin',
  'category.slug',
  'category.name',
  'author.name',
  'parent.slug',
  'post.title',
  'image.name',
  'image.text',
  'tags.size',
  'text',
  'html',
  'path',
  'position',
  'count',
  'found',
  'about',
  'publishedYear',
]
const field = fc.constantFrom(...FIELDS)
const filters = fc.constantFrom(
  '',
  ' | first',
  ' | last',
  ' | reverse',
  ' | slice: 0, 2',
  " | map: 'title'",
  " | sort: 'title'",
  " | where: 'slug', 's2'",
  ' | size',
  " | where_exp: 'p', 'p.id > 2'",
  " | group_by: 'title' | map: 'name'",
)

/** What a body can name: rows, and lists of rows. */
interface Names {
  rows: readonly string[]
  lists: readonly string[]
  /** Whether it can render the card. */
  rendersCard: boolean
}

/** The body of a template. @param depth levels of nesting that are left */
const statements = (depth: number, names: Names): fc.Arbitrary<string> =>
  fc.array(statement(depth, names), { minLength: 1, maxLength: 3 }).map((parts) => parts.join('\n'))

function statement(depth: number, names: Names): fc.Arbitrary<string> {
  const row = fc.constantFrom(...names.rows)
  const list = fc.constantFrom(...names.lists)
  const leaf = fc.oneof(
    { weight: 4, arbitrary: fc.tuple(row, field).map(([one, name]) => `[{{ ${one}.${name} }}]`) },
    fc.tuple(list, field).map(([one, name]) => `[{{ ${one}[0].${name} }}{{ ${one}.size }}]`),
    fc.tuple(row, field).map(([one, name]) => `[{{ ${one}.${name} | date: '%Y-%m-%d %H:%M' }}]`),
    fc
      .tuple(list, filters)
      .map(([one, filter]) => `{% assign picked = ${one}${filter} %}{{ picked.size }}{{ picked }}`),
    fc
      .tuple(list, filters, field)
      .map(([one, filter, name]) => `{% assign x = ${one}${filter} | first %}[{{ x.${name} }}]`),
    fc.constantFrom(
      '{{ blog.title }}',
      '{{ request.params.p }}',
      '{{ request.path }}',
      '{{ two.total }} {{ one.page }}',
      "{{ 'b' | url: p: 's1' }}",
      '{{ forloop.index }}',
      '{% if x %}x{% endif %}',
      '{{ request.params.q }}',
    ),
    ...(names.rendersCard
      ? [
          row.map((one) => `{% render 'partials/card', it: ${one} %}`),
          list.map((one) => `{% for y in ${one} %}{% render 'partials/card', it: y %}{% endfor %}`),
        ]
      : []),
  )
  if (depth === 0) return leaf
  return fc.oneof(
    { weight: 2, arbitrary: leaf },
    {
      weight: 3,
      arbitrary: fc
        .tuple(fc.constantFrom('x', 'y'), list)
        .chain(([variable, one]) =>
          statements(depth - 1, { ...names, rows: [...names.rows, variable, variable] }).map(
            (body) => `{% for ${variable} in ${one} %}${body}{% else %}none{% endfor %}`,
          ),
        ),
    },
    {
      weight: 3,
      arbitrary: fc
        .tuple(fc.constantFrom('f', 'g'), statements(depth - 1, names))
        .map(([name, body]) => `{% fragment '${name}', lifetime: '1h' %}${body}{% endfragment %}`),
    },
    {
      weight: 1,
      arbitrary: statements(depth - 1, names).map((body) => `{% capture x %}${body}{% endcapture %}{{ x }}`),
    },
  )
}

export interface RandomDefinition {
  documents: Map<string, string>
}

const page = statements(2, {
  rows: ['one', 'two', 'x'],
  lists: ['one', 'one.items', 'two', 'two.items', 'three', 'picked', 'navigation', 'one.tags'],
  rendersCard: true,
})
const card = statements(1, {
  rows: ['it', 'it', 'x'],
  lists: ['it.tags', 'it.items', 'navigation', 'it.children'],
  rendersCard: false,
})
const route = (name: string) =>
  fc
    .record({
      entries: fc.array(fc.constantFrom('q1', 'q2', 'q3'), { minLength: 1, maxLength: 3 }),
      argument: fc.constantFrom(undefined, 'one.slug', 'one.category.slug', "'s2'"),
      body: page,
    })
    .map(({ entries, argument, body }) => ({
      name,
      data: Object.fromEntries(
        entries.map((query, index) => [
          DATA[index] ?? '',
          index === 1 && argument !== undefined ? { query, with: { p: argument } } : query,
        ]),
      ),
      body,
    }))

/** Documents of a definition with two routes. Not each is valid: a fragment may read what it must not. */
export const randomDefinition: fc.Arbitrary<RandomDefinition> = fc
  .record({
    title: fc.constantFrom('Blog', 'Journal'),
    queries: fc.tuple(randomQuery, randomQuery, randomQuery),
    routes: fc.tuple(route('a'), route('b')),
    card,
  })
  .map(({ title, queries, routes, card: text }) => {
    const json = (value: unknown) => JSON.stringify(value)
    return {
      documents: new Map([
        ['blog.yaml', json({ title, language: 'en-GB', 'time-zone': 'Europe/London' })],
        [
          'routes.yaml',
          json(
            routes.map(({ name, data }) => ({
              name,
              path: `/${name}/:p`,
              params: { p: 'text' },
              query: { q: 'text' },
              data,
              template: `pages/${name}`,
            })),
          ),
        ],
        ...queries.map((query, index): [string, string] => [`queries/q${index + 1}.yaml`, json(query)]),
        ...routes.map(({ name, body }): [string, string] => [`templates/pages/${name}.liquid`, body]),
        [
          'templates/partials/card.liquid',
          `<p>{% fragment 'card', lifetime: '1h' %}${text}{% endfragment %}</p>`,
        ],
      ]),
    }
  })
