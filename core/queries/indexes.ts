/** The indexes that a definition adds to those every blog has, and the indexes that may speed up a query. */
import type { SourceName } from '../shapes/schemas.ts'
import { isNullableIn, type QueryMeaning } from './meaning.ts'
import { SOURCE } from './sources.ts'

export interface IndexKey {
  /** A field of the source, or a to-one relation, whose id is indexed. */
  field: string
  descending: boolean
  /** True if rows without a value come last. PostgreSQL's default is first in descending and last in ascending order. */
  nullsLast: boolean
}

export interface OwnIndex {
  name: string
  on: SourceName
  keys: IndexKey[]
}

/** `-publishedAt nulls last` */
const INDEX_KEY = /^(-?)([a-zA-Z]+)( nulls last)?$/

export function readIndexKey(text: string): IndexKey {
  const [, minus = '', field = '', nulls] = INDEX_KEY.exec(text) ?? []
  const descending = minus === '-'
  return { field, descending, nullsLast: nulls !== undefined || !descending }
}

export const writeIndexKey = ({ field, descending, nullsLast }: IndexKey): string =>
  `${descending ? '-' : ''}${field}${descending && nullsLast ? ' nulls last' : ''}`

/** True if an index may have the key. */
export function isIndexable(source: SourceName, name: string): boolean {
  const { fields, relations } = SOURCE[source]
  const field = Object.hasOwn(fields, name) ? fields[name] : undefined
  if (field) return field.long !== true && field.type !== 'words' && field.type !== 'relevance'
  const relation = Object.hasOwn(relations, name) ? relations[name] : undefined
  return relation?.many === false
}

/** Most keys of an index. */
const KEYS_MOST = 6

/**
 * Returns indexes worth trying for a query, the most promising first: keys that its conditions fix, followed by its order,
 * so that only the first page is read. Whether PostgreSQL uses one is found by trying.
 */
export function candidateIndexes(meaning: QueryMeaning): OwnIndex[] {
  const { from, conditions, order, countBy, take } = meaning
  if (meaning.byUnique || take.kind === 'one') return []
  const key = (field: string, descending = false): IndexKey => ({
    field,
    descending,
    nullsLast: !descending || isNullableIn(meaning, field),
  })
  const fixed: IndexKey[] = []
  const ranges: IndexKey[] = []
  for (const { field, is } of conditions) {
    const [first = '', second] = field.split('.')
    const isId = second !== undefined && SOURCE[from].relations[first]?.many === false
    const name = isId ? first : field
    if (second !== undefined && !isId) continue
    // A row contains the id of a related row, but none of its other fields.
    if (isId && !(is === 'equal' && second === 'slug')) continue
    if (!isIndexable(from, name)) continue
    if (is === 'equal' || is === 'unset') fixed.push(key(name))
    else if (['less', 'at-most', 'more', 'at-least', 'in'].includes(is)) ranges.push(key(name))
  }
  const ordering: IndexKey[] = []
  for (const { field, descending } of order) {
    if (countBy.length > 0 || field.includes('.') || !isIndexable(from, field)) break
    ordering.push(key(field, descending))
  }
  const found = new Map<string, OwnIndex>()
  const add = (keys: IndexKey[]) => {
    const unique = keys.filter((one, at) => keys.findIndex((other) => other.field === one.field) === at)
    if (unique.length === 0 || unique.length > KEYS_MOST) return
    // The primary key indexes the id already.
    if (unique.length === 1 && unique[0]?.field === 'id') return
    const index = { on: from, keys: unique, name: nameOf(from, unique) }
    const equal = new Set(fixed.map((one) => one.field))
    if (BUILT_IN.some((one) => serves(one, index, equal))) return
    found.set(unique.map(writeIndexKey).join(), index)
  }
  if (fixed.length > 0) add([...fixed, ...ordering])
  if (ordering.length > 0) add(ordering)
  if (ranges.length > 0) add([...fixed, ...ranges])
  if (countBy.length > 0 && countBy.every((one) => isIndexable(from, one)))
    add(countBy.map((one) => key(one)))
  return [...found.values()]
}

/** Returns a name such as `posts-category-published-at-id`. */
function nameOf(source: SourceName, keys: readonly IndexKey[]): string {
  const words = keys.map(({ field }) => field.replace(/[A-Z]/g, (one) => `-${one.toLowerCase()}`))
  return [source, ...words].join('-').slice(0, 50).replace(/-$/, '')
}

const rising = (field: string): IndexKey => ({ field, descending: false, nullsLast: true })
const builtIn = (on: SourceName, ...keys: string[]): OwnIndex => ({
  name: `${on}-${keys.join('-')}`,
  on,
  keys: keys.map(rising),
})
/** The indexes of every blog that conditions and orders can use. */
export const BUILT_IN: readonly OwnIndex[] = [
  builtIn('posts', 'publishedAt', 'id'),
  builtIn('posts', 'category', 'publishedAt', 'id'),
  builtIn('posts', 'author', 'publishedAt', 'id'),
  builtIn('posts', 'updatedAt', 'id'),
  builtIn('posts', 'title', 'id'),
  builtIn('comments', 'post', 'createdAt', 'id'),
  builtIn('comments', 'post', 'thread'),
  builtIn('comments', 'post', 'startedAt', 'thread'),
  builtIn('comments', 'createdAt', 'id'),
]

/** Returns an index as it is when read backwards. */
const backwards = ({ keys, ...index }: OwnIndex): OwnIndex => ({
  ...index,
  keys: keys.map((one) => ({ ...one, descending: !one.descending, nullsLast: !one.nullsLast })),
})

/** True if an index returns rows in the order of another one, forwards or backwards. Fixed keys may have either direction. */
function serves(index: OwnIndex, wanted: OwnIndex, fixed: ReadonlySet<string>): boolean {
  if (index.on !== wanted.on || index.keys.length < wanted.keys.length) return false
  return [index, backwards(index)].some((one) =>
    wanted.keys.every((key, at) => {
      const own = one.keys[at]
      return own?.field === key.field && (fixed.has(key.field) || writeIndexKey(own) === writeIndexKey(key))
    }),
  )
}

/** True if two indexes have the same keys in the same order. */
export const isSameIndex = (a: OwnIndex, b: OwnIndex): boolean =>
  a.on === b.on && a.keys.map(writeIndexKey).join() === b.keys.map(writeIndexKey).join()
