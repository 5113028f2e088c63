/** The types of the values that templates see: the data of each page, and the names that all templates see. */
import { isSearch, type QueryMeaning } from '../queries/meaning.ts'
import { SOURCE } from '../queries/sources.ts'
import { resultSchema, type JsonSchema } from '../syndication/shape.ts'
import type { DataEntry, ParameterType } from '../shapes/schemas.ts'
import { queryPath } from '../shapes/documents.ts'
import { analyseTemplates, type AnalysedTemplates } from '../templates/types/analyse.ts'
import type { TypedPage } from '../templates/types/typed-page.ts'
import {
  BOOLEAN,
  DATE,
  HTML,
  listOf,
  NUMBER,
  orEmpty,
  row,
  TEXT,
  UNKNOWN,
  type AbsentField,
  type RowType,
  type Type,
} from '../templates/types/type.ts'
import type { Definition } from './definition.ts'

/** E.g. `tags` → `tag`. */
const SINGULAR = new Map(Object.values(SOURCE).map(({ words: [one, many] }) => [many, one]))

/** Returns the type of a value that a JSON Schema describes. */
function typeOfSchema(schema: JsonSchema, name: string): Type {
  const { anyOf, type, properties, items } = schema
  if (Array.isArray(anyOf)) return orEmpty(typeOfSchema(anyOf[0] as JsonSchema, name))
  if (type === 'object')
    return row(
      name,
      Object.fromEntries(
        Object.entries(properties as Record<string, JsonSchema>).map(([field, one]) => [
          field,
          typeOfSchema(one, field),
        ]),
      ),
    )
  if (type === 'array') return listOf(typeOfSchema(items as JsonSchema, SINGULAR.get(name) ?? name))
  if (type === 'integer') return NUMBER
  if (type === 'boolean') return BOOLEAN
  if (schema['format'] === 'date-time') return DATE
  if (schema['contentMediaType'] === 'text/html') return HTML
  return TEXT
}

/** Returns the fields of the source that a query does not fetch, and how to fetch them. */
function absentFields({ from, relations, counts, take, countBy }: QueryMeaning, query: string) {
  const absent = new Map<string, AbsentField>()
  if (countBy.length > 0) return absent
  const source = SOURCE[from]
  for (const name of [...Object.keys(source.relations), ...Object.keys(source.counts)])
    if (!relations.includes(name) && !counts.includes(name))
      absent.set(name, {
        hint: `Add “${name}” to “with” in ${queryPath(query)}.`,
        fetch: { query, name },
      })
  if (take.kind !== 'one')
    for (const [name, field] of Object.entries(source.fields))
      if (field.long) absent.set(name, { hint: `Only a query for one row fetches “${name}”.`, fetch: null })
  return absent
}

/** Returns the type of a query's result. */
function typeOfQuery(meaning: QueryMeaning, query: string): Type {
  const [one, many] = SOURCE[meaning.from].words
  const absent = absentFields(meaning, query)
  const rowOf = (type: Type): Type =>
    type.kind === 'row' ? { ...type, name: meaning.countBy.length > 0 ? 'count' : one, absent } : type
  const type = typeOfSchema(resultSchema(meaning), one)
  if (type.kind === 'list') return listOf(rowOf(type.of))
  if (type.kind !== 'row' || meaning.take.kind !== 'pages') return rowOf(type)
  const items = type.fields.get('items')
  const link = row('page link', { number: NUMBER, url: TEXT, current: BOOLEAN, gap: BOOLEAN })
  return row(
    `page of ${many}`,
    new Map([
      ...type.fields,
      ['items', items?.kind === 'list' ? listOf(rowOf(items.of)) : UNKNOWN],
      ...(meaning.take.by === 'number' ? [['pages', listOf(link)] as const] : []),
      ...(isSearch(meaning) ? [['isTooBroad', orEmpty(BOOLEAN)] as const] : []),
    ]),
  )
}

const COMMENT: Readonly<Record<string, Type>> = {
  id: NUMBER,
  name: TEXT,
  text: TEXT,
  site: TEXT,
  byAuthor: BOOLEAN,
  createdAt: DATE,
  editedAt: orEmpty(DATE),
  depth: NUMBER,
  html: HTML,
  avatar: orEmpty(TEXT),
}

const mapped = <From, To>(
  record: Readonly<Record<string, From>>,
  to: (one: From) => To,
): Record<string, To> => Object.fromEntries(Object.entries(record).map(([name, one]) => [name, to(one)]))

const fields = (names: readonly string[], type: Type): Record<string, Type> =>
  Object.fromEntries(names.map((name) => [name, type]))

/** The comment form. */
const FORM: RowType = row('form', {
  ...fields(['isOpen', 'remember', 'replies', 'isUnconfirmed'], BOOLEAN),
  token: TEXT,
  fields: row('fields', fields(['name', 'email', 'site'], TEXT)),
  rules: row('rules', {
    ...fields(['show', 'order'], TEXT),
    ...fields(['depth', 'nameLength', 'textLength', 'editableMinutes'], NUMBER),
    repliesByMail: BOOLEAN,
  }),
  honeypot: orEmpty(TEXT),
  values: row('values', fields(['name', 'email', 'site', 'text'], orEmpty(TEXT))),
  errors: orEmpty(
    row('errors', {
      ...fields(['name', 'email', 'site', 'text', 'form'], orEmpty(TEXT)),
      all: listOf(row('error', { field: TEXT, text: TEXT })),
    }),
  ),
  outside: orEmpty(row('outside', fields(['script', 'site', 'thread', 'address', 'title'], TEXT))),
  parent: orEmpty(row('parent', { id: NUMBER, name: TEXT, text: TEXT })),
  preview: orEmpty(HTML),
  editing: orEmpty(row('editing', { id: NUMBER })),
  waiting: listOf(row('comment', { ...COMMENT, isChangeable: BOOLEAN })),
  changeable: listOf(NUMBER),
})

function navigationType(): Type {
  const { fields: ofPage } = SOURCE.pages
  const own: Record<string, Type> = {
    ...Object.fromEntries(Object.keys(ofPage).map((name) => [name, UNKNOWN])),
    ...{ id: NUMBER, title: TEXT, path: TEXT, slug: TEXT, parent: UNKNOWN },
  }
  // A page has pages as children.
  const children = new Map<string, Type>(Object.entries(own))
  const node = row('page', children)
  children.set('children', listOf(node))
  return listOf(node)
}

const BLOG = row('blog', fields(['title', 'tagline', 'origin', 'language'], TEXT))
const NAVIGATION = navigationType()

/** Returns the type of a parameter of an address in templates. */
const typeOfParameter = (type: ParameterType | undefined): Type =>
  type === 'integer' || type === 'number' || type === 'year' || type === 'month' || type === 'day'
    ? UNKNOWN
    : TEXT

/** Returns the types of the names that all templates of a page see. @param parameters of the address */
function globalsFor(parameters: Readonly<Record<string, Type>>): ReadonlyMap<string, Type> {
  return new Map<string, Type>([
    ['blog', BLOG],
    [
      'request',
      row('request', {
        ...fields(['path', 'query', 'url', 'route', 'canonical'], TEXT),
        params: row('params', parameters),
      }),
    ],
    ['heading', TEXT],
    ['visitor', row('visitor', { isAuthor: BOOLEAN })],
    ['form', FORM],
    ['now', DATE],
    ['navigation', NAVIGATION],
    ['nearest', listOf(row('address', { path: TEXT, title: TEXT }))],
  ])
}

/** Returns the types of the names that templates of every page see. */
export const sharedTypes = (): ReadonlyMap<string, Type> => globalsFor({})

/** Adds to a list by which values of other data its rows are selected: without one of them, it has none. */
function implying(type: Type, { optional }: QueryMeaning, entry: DataEntry): Type {
  if (type.kind !== 'list' || typeof entry === 'string') return type
  const implies = Object.entries(entry.with ?? {}).flatMap(([parameter, value]) =>
    !optional.includes(parameter) && String(value).includes('.') ? [String(value).split('.')] : [],
  )
  return implies.length === 0 ? type : { ...type, implies }
}

/** Yields every page of a blog with the types of its data. */
export function* typedPages({ routes, settings, queries }: Definition): Generator<TypedPage> {
  const typesOf = (data: Readonly<Record<string, DataEntry>> = {}) =>
    new Map(
      Object.entries(data).map(([name, entry]): [string, Type] => {
        const query = typeof entry === 'string' ? entry : entry.query
        const meaning = queries.get(query)
        return [name, meaning ? implying(typeOfQuery(meaning, query), meaning, entry) : UNKNOWN]
      }),
    )
  const slugs = new Map(
    routes.map(({ route }) => [
      route.name,
      new Set(Object.entries(route.params ?? {}).flatMap(([name, type]) => (type === 'slug' ? [name] : []))),
    ]),
  )
  for (const { route, pattern } of routes)
    if (route.template !== undefined)
      yield {
        page: route.template,
        route: route.name,
        data: typesOf(route.data),
        globals: globalsFor({
          ...mapped(route.query ?? {}, (one) => orEmpty(typeOfParameter(one))),
          ...Object.fromEntries(
            pattern.names.map((name) => [name, typeOfParameter(route.params?.[name])] as const),
          ),
        }),
        slugs,
      }
  const rule = settings['not-found']
  if (rule)
    yield { page: rule.template, route: null, data: typesOf(rule.data), globals: globalsFor({}), slugs }
  const { error } = settings
  if (error !== undefined)
    yield {
      page: error,
      route: null,
      data: new Map(),
      slugs,
      globals: new Map([
        ...globalsFor({}),
        ['error', row('error', { status: NUMBER, ...fields(['title', 'text', 'number'], TEXT) })],
      ]),
    }
}

const known = new WeakMap<Definition, AnalysedTemplates>()

/** Analyses the templates of a definition with the types of its data. It can take long, so call it in a worker. */
export function analysedTemplates(definition: Definition): AnalysedTemplates {
  let analysed = known.get(definition)
  if (!analysed) {
    analysed = analyseTemplates((name) => definition.templates.tree(name), typedPages(definition))
    known.set(definition, analysed)
  }
  return analysed
}
