/** Random definitions of blogs: queries of every kind, and templates with loops, assignments, partials and fragments. */
import fc from 'fast-check'
import { RELATED_FIELDS, SOURCE, type Field } from '../../core/queries/sources.ts'
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

const COMPARISONS = ['equal', 'equal', 'not-equal', 'less', 'at-least', 'in', 'contains', 'set', 'unset']

/** A condition on a field. Fields that are found in another way than by comparing them are chosen more often. */
const onField = (source: SourceName): fc.Arbitrary<unknown> => {
  const fields = fieldsOf(source)
  const compared = fields.filter(([, { type }]) => type !== 'words')
  const [own, related] = [false, true].map((is) => compared.filter(([name]) => name.includes('.') === is))
  const slugs = fields.filter(([name]) => /^(category|parent)\.slug$/.test(name))
  const words = fields.filter(([, { type }]) => type === 'words')
  const ways = [
    { weight: 4, from: own ?? [], comparisons: COMPARISONS },
    { weight: 3, from: related ?? [], comparisons: COMPARISONS },
    { weight: 1, from: slugs, comparisons: ['within'] },
    { weight: 1, from: words, comparisons: ['matches'] },
  ].filter((one) => one.from.length > 0)
  return fc.oneof(
    ...ways.map(({ weight, from, comparisons }) => ({
      weight,
      arbitrary: fc.constantFrom(...from).chain(([field, kind]) =>
        fc
          .tuple(
            fc.constantFrom(...comparisons),
            valueOf(kind),
            // Most addresses have slugs, for which a search finds nothing.
            kind.type === 'words'
              ? fc.constantFrom('fixed', 'fixed', ':q')
              : fc.constantFrom('fixed', ':p', ':q'),
          )
          .map(([is, value, how]) => compare(field, kind, is, value, how)),
      ),
    })),
  )
}

function compare(field: string, { type }: Field, is: string, value: unknown, how: string): unknown {
  if (is === 'set' || is === 'unset') return { field, is }
  if (is === 'in') return { field, is, to: [value] }
  const isText = ['text', 'slug', 'path', 'words'].includes(type)
  if (how === 'fixed' || !isText) return { field, is, to: value }
  return { field, is, to: how, ...(how === ':q' ? { when: 'given' } : {}) }
}

const condition = (source: SourceName): fc.Arbitrary<unknown> => {
  const names = Object.entries(SOURCE[source].conditions).flatMap(([name, { internal }]) =>
    internal ? [] : [name],
  )
  const named = names.length > 0 ? [{ weight: 2, arbitrary: fc.constantFrom(...names) }] : []
  const leaf = fc.oneof({ weight: 3, arbitrary: onField(source) }, ...named)
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
export const randomQuery: fc.Arbitrary<Query> = fc
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
        isRanked: fc.boolean(),
      })
      .map(({ by, end, isRanked, ...query }): unknown => {
        if (isRanked && JSON.stringify(query.where).includes('matches')) query.order = ['-relevance']
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

/** A value that a body can name: a row, or a list of rows. */
interface View {
  /** E.g. `one`, `one.items` or `x`. */
  name: string
  isList: boolean
  source: SourceName
  /** Fields, fields of related rows and counts that its rows have. */
  fields: readonly string[]
}

/** Returns what rows of a query show. */
function fieldsOfRows({ from, with: relations = [], take, where = [], ...query }: Query): string[] {
  if (query['count-by']) return ['count', ...query['count-by']]
  const { fields, relations: known, counts } = SOURCE[from]
  const own = Object.entries(fields).flatMap(([name, { long, partOf, type }]) =>
    partOf || (long && take !== 'one') || type === 'words' || type === 'relevance' ? [] : [name],
  )
  const isSearched = JSON.stringify(where).includes('matches')
  const related = relations.flatMap((name) => {
    const relation = known[name]
    if (!relation) return name in counts ? [name, name] : []
    const shown = RELATED_FIELDS[relation.source]
    return relation.many ? [`${name}.size`, `${name}[0].name`] : shown.map((field) => `${name}.${field}`)
  })
  return [...own, ...related, ...(isSearched ? ['found'] : [])]
}

function viewsOf(name: string, query: Query): View[] {
  const view = { source: query.from, fields: fieldsOfRows(query) }
  if (query.take === 'one') return [{ name, isList: false, ...view }]
  return [{ name: query.take === 'pages' ? `${name}.items` : name, isList: true, ...view }]
}

const filters = fc.constantFrom(
  '',
  ' | reverse',
  ' | slice: 0, 2',
  " | sort: 'title'",
  " | where: 'slug', 's2'",
  " | where_exp: 'p', 'p.id > 2'",
)

/** Prints some fields of a row. */
const printed = (name: string, fields: readonly string[]) =>
  fc
    .array(fc.constantFrom(...fields), { minLength: 2, maxLength: 5 })
    .map((chosen) => chosen.map((field) => `[{{ ${name}.${field} }}]`).join(''))

interface Body {
  views: readonly View[]
  /** The rows that the card shows; undefined inside the card. */
  card: SourceName | undefined
}

/** The body of a template. @param depth levels of nesting that are left */
const statements = (depth: number, body: Body): fc.Arbitrary<string> =>
  fc.array(statement(depth, body), { minLength: 1, maxLength: 3 }).map((parts) => parts.join('\n'))

function statement(depth: number, body: Body): fc.Arbitrary<string> {
  return fc.constantFrom(...body.views).chain((view) => {
    const { name, isList, fields } = view
    const own = isList ? `{% for x in ${name} %}` : ''
    const end = isList ? '{% else %}none{% endfor %}' : ''
    const row = isList ? 'x' : name
    const inner: Body = { ...body, views: [...body.views, { ...view, name: row, isList: false }] }
    const isOfCard = body.card === view.source
    const leaf = fc.oneof(
      { weight: 5, arbitrary: printed(row, fields).map((text) => own + text + end) },
      fc
        .tuple(filters, fc.constantFrom('first', 'last'), printed('picked', fields))
        .map(([filter, end_, text]) =>
          isList
            ? `{% assign picked = ${name}${filter} | ${end_} %}${text}`
            : `{% assign picked = ${name} %}${text}`,
        ),
      fc
        .tuple(filters, printed('x', fields))
        .map(([filter, text]) =>
          isList
            ? `{% assign some = ${name}${filter} %}{{ some.size }}{% for x in some %}${text}{% endfor %}`
            : '',
        ),
      printed(isList ? `${name}[0]` : name, fields),
      fc.constantFrom(
        '{{ blog.title }}',
        '{{ request.params.p }} {{ request.path }}',
        `{{ ${name.replace('.items', '.total')} }} {{ ${name.replace('.items', '.page')} }}`,
        "{{ 'b' | url: p: 's1' }}",
        '{% for n in navigation %}{{ forloop.index }}{{ n.title }}{{ n.path }}{% endfor %}',
        '{{ request.params.q }}',
      ),
      ...(isOfCard ? [fc.constant(`${own}{% render 'partials/card', it: ${row} %}${end}`)] : []),
    )
    if (depth === 0) return leaf
    const kept = fc
      .tuple(fc.constantFrom('f', 'g'), statements(depth - 1, body))
      .map(([fragment, text]) => `{% fragment '${fragment}', lifetime: '1h' %}${text}{% endfragment %}`)
    return fc.oneof(
      { weight: 1, arbitrary: leaf },
      { weight: 4, arbitrary: kept },
      { weight: 2, arbitrary: statements(depth - 1, inner).map((text) => own + text + end) },
      {
        weight: 1,
        arbitrary: statements(depth - 1, body).map(
          (text) => `{% capture held %}${text}{% endcapture %}{{ held }}`,
        ),
      },
    )
  })
}

/** Parts of templates that print the form, filter its values or branch on them. */
const formParts = fc
  .array(
    fc.constantFrom(
      '<input value="{{ form.token }}">',
      '<input value="{{ form.token }}">',
      '<input value="{{ form.values.name }}">',
      '<input value="{{ form.values.email }}">',
      '{% if form.values.name %}known{% else %}new{% endif %}',
      '{{ form.values.name | upcase }}',
      '{{ form.token | upcase }}',
      '{% assign held = form.token %}{{ held }}',
      '{% capture held %}{{ form.values.site }}{% endcapture %}{{ held }}',
      '{% if form.isOpen %}open{% endif %}{{ form.rules.textLength }}',
      '{% for c in form.waiting %}[{{ c.text }}]{% else %}nothing waits{% endfor %}',
      '{% for n in (1..2) %}{{ form.token }}{% endfor %}',
    ),
    { minLength: 1, maxLength: 4 },
  )
  .map((parts) => parts.join('\n'))

/** The query of the post with the form. Without a post, there is no page. */
const OF_FORM = { from: 'posts', where: [{ field: 'slug', is: 'equal', to: ':p' }], take: 'one' }

export interface RandomDefinition {
  documents: Map<string, string>
  /** What its queries read, as `SOURCE.field`, e.g. `categories.name`. Such changes matter to its pages. */
  read: string[]
}

/**
 * Returns the fields that a query names, to find its rows or to show related ones. It reads the document of the query, not
 * its plan, so that a fault of the plan does not keep these fields from being changed.
 */
function readBy({ from, where, order, with: fetched, ['count-by']: by }: Query): string[] {
  const named = [where, order, fetched, by].flatMap(wordsIn)
  const searched = named.includes('matches') ? ['search', 'title'] : []
  return [...named, ...searched].flatMap((word) => fieldsNamed(from, word))
}

/** Returns all texts of a value, without the sign of a descending order. */
function wordsIn(value: unknown): string[] {
  if (typeof value === 'string') return [value.replace(/^-/, '')]
  return typeof value === 'object' && value !== null ? Object.values(value).flatMap(wordsIn) : []
}

/** Returns e.g. `categories.name` and `posts.categoryId` for `category.name` of posts. */
function fieldsNamed(from: SourceName, word: string): string[] {
  const { relations, counts, conditions } = SOURCE[from]
  const [first = '', second] = word.split('.')
  const relation = relations[first]
  if (relation) {
    const key = relation.many ? first : `${first}Id`
    const fields = second === undefined ? RELATED_FIELDS[relation.source] : [second, 'slug', 'parentId']
    return [`${from}.${key}`, ...fields.map((field) => `${relation.source}.${field}`)]
  }
  const count = counts[word]
  if (count) {
    const within = count.within ? [`${from}.parentId`] : []
    return [...fieldsNamed(count.source, count.named), ...fieldsNamed(count.source, count.by), ...within]
  }
  const condition = conditions[word]
  if (condition) return condition.fields.flatMap((field) => fieldsNamed(from, field))
  return [`${from}.${SOURCE[from].fields[word]?.partOf?.time ?? word}`]
}

interface RandomRoute {
  name: string
  data: Record<string, unknown>
  body: string
}

const route = (name: string, queries: readonly Query[], card: SourceName): fc.Arbitrary<RandomRoute> =>
  fc
    .record({
      entries: fc.array(fc.nat({ max: queries.length - 1 }), { minLength: 1, maxLength: 3 }),
      argument: fc.constantFrom(undefined, undefined, 'one.slug', 'one.category.slug', "'s2'"),
      form: fc.option(formParts, { freq: 2 }),
    })
    .chain(({ entries, argument, form }) => {
      const named = entries.map((query, index) => ({ name: DATA[index] ?? '', query }))
      const views = named.flatMap((one) => viewsOf(one.name, queries[one.query] as Query))
      const data = Object.fromEntries(
        named.map((one, index) => {
          const query = `q${one.query + 1}`
          return [one.name, index === 1 && argument !== undefined ? { query, with: { p: argument } } : query]
        }),
      )
      return statements(2, { views, card }).map((body) =>
        form === null
          ? { name, data, body }
          : { name, data: { ...data, post: 'of-form' }, body: `${body}\n${form}` },
      )
    })

/** Documents of a definition with two routes. Not each is valid: a fragment may read what it must not. */
export const randomDefinition: fc.Arbitrary<RandomDefinition> = fc
  .tuple(fc.constantFrom('Blog', 'Journal'), randomQuery, randomQuery, randomQuery)
  .chain(([title, ...queries]) => {
    const [first] = queries
    const card = first.from
    const it: View = { name: 'it', isList: false, source: card, fields: fieldsOfRows(first) }
    return fc.record({
      title: fc.constant(title),
      queries: fc.constant(queries),
      routes: fc.tuple(route('a', queries, card), route('b', queries, card)),
      card: statements(0, { views: [it], card: undefined }),
    })
  })
  .map(({ title, queries, routes, card }) => {
    const json = (value: unknown) => JSON.stringify(value)
    return {
      read: [...new Set(queries.flatMap(readBy))].sort(),
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
        ['queries/of-form.yaml', json(OF_FORM)],
        ...queries.map((query, index): [string, string] => [`queries/q${index + 1}.yaml`, json(query)]),
        ...routes.map(({ name, body }): [string, string] => [`templates/pages/${name}.liquid`, body]),
        [
          'templates/partials/card.liquid',
          `<p>{% fragment 'card', lifetime: '1h' %}${card}{% endfragment %}</p>`,
        ],
      ]),
    }
  })
