/** Checks a query against its source, makes its order total and names everything it depends on. */
import type { Query, SourceName, FieldCondition } from '../definition/schemas.ts'
import { SOURCE, type Field } from './sources.ts'

export interface OrderKey {
  field: string
  descending: boolean
}

export type Take =
  | { kind: 'one' }
  | { kind: 'first'; count: number }
  | { kind: 'all' }
  | { kind: 'pages'; size: number; parameter: string; pastTheEnd: 'not-found' | 'last' | 'empty' }

/** A query with everything decided: what the compiler, the sentence and the cache read. */
export interface QueryMeaning {
  from: SourceName
  relations: string[]
  counts: string[]
  named: string[]
  conditions: FieldCondition[]
  order: OrderKey[]
  /** True when the id had to be added to make the order total. */
  orderCompleted: boolean
  take: Take
  empty: 'not-found' | 'next-route' | 'allow'
  /** Parameters it needs, without the colon. */
  parameters: string[]
  /** Sources whose changes may change which rows come back. */
  sources: SourceName[]
  /** True when membership changes by itself as time passes. */
  timed: boolean
  /** True when a row found can only be replaced by a change of that row itself. */
  byUnique: boolean
}

export interface MeaningProblem {
  path: (string | number)[]
  message: string
  hint?: string
}

/** `:category` → `category`. */
export const parameterOf = (value: unknown): string | undefined =>
  typeof value === 'string' && /^:[a-z][a-z0-9-]*$/i.test(value) ? value.slice(1) : undefined

/** Finds a field of a source or, over a dot, of a relation. */
export function findField(
  source: SourceName,
  name: string,
): { field: Field; relation?: string; many?: boolean } | undefined {
  const [first = '', second, ...more] = name.split('.')
  if (more.length > 0) return undefined
  if (second === undefined) {
    const field = SOURCE[source].fields[first]
    return field && { field }
  }
  const relation = SOURCE[source].relations[first]
  if (!relation || relation.source === 'images') return undefined
  const field = SOURCE[relation.source].fields[second]
  return field && { field, relation: first, many: relation.many }
}

const fieldsInWords = (source: SourceName) => {
  const { fields, relations } = SOURCE[source]
  return `fields: ${Object.keys(fields).join(', ')}${Object.keys(relations).length > 0 ? `; relations: ${Object.keys(relations).join(', ')}` : ''}`
}

export function readMeaning(
  query: Query,
): { ok: true; meaning: QueryMeaning } | { ok: false; problems: MeaningProblem[] } {
  const problems: MeaningProblem[] = []
  const source = SOURCE[query.from]
  const relations: string[] = []
  const counts: string[] = []
  for (const [index, name] of (query.with ?? []).entries()) {
    if (name in source.relations) relations.push(name)
    else if (name in source.counts) counts.push(name)
    else {
      problems.push({
        path: ['with', index],
        message: `${query.from} have no “${name}”`,
        hint: `known: ${[...Object.keys(source.relations), ...Object.keys(source.counts)].join(', ') || 'none'}`,
      })
    }
  }

  const named: string[] = []
  const conditions: FieldCondition[] = []
  for (const [index, condition] of (query.where ?? []).entries()) {
    if (typeof condition !== 'string') {
      problems.push(...conditionProblems(query.from, condition, ['where', index]))
      conditions.push(condition)
    } else if (condition in source.conditions) named.push(condition)
    else {
      problems.push({
        path: ['where', index],
        message: `${query.from} know no condition “${condition}”`,
        hint: `known: ${Object.keys(source.conditions).join(', ') || 'none'}`,
      })
    }
  }

  const take = readTake(query, problems)
  const order: OrderKey[] = []
  for (const [index, text] of (query.order ?? []).entries()) {
    const descending = text.startsWith('-')
    const field = descending ? text.slice(1) : text
    const found = findField(query.from, field)
    if (!found || found.many || found.field.long) {
      const message = found ? `“${field}” cannot order rows` : `${query.from} have no field “${field}”`
      problems.push({ path: ['order', index], message, hint: fieldsInWords(query.from) })
    } else order.push({ field, descending })
  }
  const orderCompleted = !order.some(
    ({ field }) => !field.includes('.') && source.fields[field]?.unique === true,
  )
  if (orderCompleted) order.push({ field: 'id', descending: order.at(-1)?.descending ?? false })

  if (problems.length > 0) return { ok: false, problems }
  const conditionsInForce = named.map((name) => source.conditions[name])
  const related = conditions.flatMap(({ field }) => {
    const name = field.split('.')[0] ?? ''
    const relation = field.includes('.') ? source.relations[name]?.source : undefined
    return relation && relation !== 'images' ? [relation] : []
  })
  const countedSources = counts.flatMap((name) => source.counts[name]?.sources ?? [])
  return {
    ok: true,
    meaning: {
      from: query.from,
      relations,
      counts,
      named,
      conditions,
      order,
      orderCompleted,
      take,
      empty: query.empty ?? 'allow',
      parameters: [...new Set(conditions.flatMap(({ to }) => parameterOf(to) ?? []))],
      sources: [
        ...new Set([
          query.from,
          ...related,
          ...conditionsInForce.flatMap((one) => one?.sources ?? []),
          ...(countedSources.includes('posts') ? (['posts'] as const) : []),
        ]),
      ],
      timed: conditionsInForce.some((one) => one?.timed) || countedSources.includes('posts'),
      byUnique:
        take.kind === 'one' &&
        conditions.some((one) => one.is === 'equal' && source.fields[one.field]?.unique === true),
    },
  }
}

function readTake(query: Query, problems: MeaningProblem[]): Take {
  if (query.take !== 'pages' && query.pages) {
    problems.push({ path: ['pages'], message: '“pages” goes with “take: pages”' })
  }
  if (query.empty === 'next-route' && query.take !== 'one') {
    problems.push({ path: ['empty'], message: '“next-route” goes with “take: one”' })
  }
  if (query.take === 'one') return { kind: 'one' }
  if (query.take === 'all') return { kind: 'all' }
  if (query.take === 'pages') {
    if (!query.pages) problems.push({ path: ['take'], message: '“take: pages” needs “pages: { size: … }”' })
    return {
      kind: 'pages',
      size: query.pages?.size ?? 10,
      parameter: query.pages?.parameter ?? 'page',
      pastTheEnd: query.pages?.['past-the-end'] ?? 'not-found',
    }
  }
  return { kind: 'first', count: Number(query.take.slice('first '.length)) }
}

function conditionProblems(
  source: SourceName,
  condition: FieldCondition,
  path: (string | number)[],
): MeaningProblem[] {
  const found = findField(source, condition.field)
  if (!found) {
    return [
      {
        path: [...path, 'field'],
        message: `${source} have no field “${condition.field}”`,
        hint: fieldsInWords(source),
      },
    ]
  }
  if (found.field.long)
    return [{ path: [...path, 'field'], message: `“${condition.field}” cannot be compared` }]
  const { is, to } = condition
  const needsNone = is === 'set' || is === 'unset'
  if (needsNone !== (to === undefined)) {
    return [
      {
        path: [...path, 'to'],
        message: needsNone
          ? `“${is}” compares with nothing; leave “to” out`
          : `“${is}” needs a value in “to”`,
      },
    ]
  }
  if (needsNone) return []
  if ((is === 'in') !== Array.isArray(to)) {
    return [
      {
        path: [...path, 'to'],
        message: is === 'in' ? '“in” needs a list of values' : `“${is}” compares with one value, not a list`,
      },
    ]
  }
  if (is === 'contains' && !['text', 'slug', 'path'].includes(found.field.type)) {
    return [
      {
        path: [...path, 'is'],
        message: `“contains” compares texts; “${condition.field}” is ${article(found.field.type)}`,
      },
    ]
  }
  const wrong = (Array.isArray(to) ? to : [to]).find(
    (value) => parameterOf(value) === undefined && !fits(found.field, value),
  )
  return wrong === undefined
    ? []
    : [{ path: [...path, 'to'], message: `${JSON.stringify(wrong)} is not ${article(found.field.type)}` }]
}

function fits(field: Field, value: unknown): boolean {
  switch (field.type) {
    case 'integer':
      return Number.isInteger(value)
    case 'boolean':
      return typeof value === 'boolean'
    case 'time':
      return typeof value === 'string' && !Number.isNaN(Date.parse(value))
    default:
      return typeof value === 'string'
  }
}
const article = (type: string) => (/^[aeio]/.test(type) ? `an ${type}` : `a ${type}`)
