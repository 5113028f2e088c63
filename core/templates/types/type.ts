/** The types of values in templates. */

export type Type =
  /** The type cannot be determined, so no fault is reported. */
  | { kind: 'unknown' }
  /** Always empty. */
  | { kind: 'nothing' }
  | { kind: 'text' | 'number' | 'boolean' | 'date' | 'html'; canBeEmpty?: boolean }
  /** `implies`: paths that are not empty if the list has rows, because it is selected by them. */
  | { kind: 'list'; of: Type; implies?: readonly (readonly string[])[]; canBeEmpty?: boolean }
  | RowType

/** A field that a query does not fetch. */
export interface AbsentField {
  /** How to fetch it, as a sentence. */
  hint: string
  /** The query that can fetch it, and what to add to its `with`; null if it cannot. */
  fetch: { query: string; name: string } | null
}

export interface RowType {
  kind: 'row'
  /** A noun, e.g. `post` or `page of posts`. */
  name: string
  fields: ReadonlyMap<string, Type>
  /** Fields of the source that the query does not fetch, by name. */
  absent: ReadonlyMap<string, AbsentField>
  canBeEmpty?: boolean
}

export const UNKNOWN: Type = { kind: 'unknown' }
export const NOTHING: Type = { kind: 'nothing' }
/** Empty because of the conditions around it. */
export const EMPTIED: Type = { kind: 'nothing' }
export const TEXT: Type = { kind: 'text' }
export const NUMBER: Type = { kind: 'number' }
/** A number that is 0 because of the conditions around it. */
export const ZERO: Type = { kind: 'number' }
export const BOOLEAN: Type = { kind: 'boolean' }
export const DATE: Type = { kind: 'date' }
export const HTML: Type = { kind: 'html' }
export const listOf = (of: Type): Type => ({ kind: 'list', of })

const NONE: ReadonlyMap<string, AbsentField> = new Map()

export const row = (
  name: string,
  fields: Readonly<Record<string, Type>> | ReadonlyMap<string, Type>,
  absent: ReadonlyMap<string, AbsentField> = NONE,
): RowType => ({
  kind: 'row',
  name,
  fields: fields instanceof Map ? fields : new Map(Object.entries(fields)),
  absent,
})

export const canBeEmpty = (type: Type): boolean =>
  type.kind === 'nothing' || (type.kind !== 'unknown' && type.canBeEmpty === true)

/** The variants of types that can be empty. Each type has one, so equal types are the same object. */
const variants = new WeakMap<Type, Type>()

/** Returns a type that may also be empty. */
export function orEmpty(type: Type): Type {
  if (type.kind === 'unknown' || type.kind === 'nothing' || type.canBeEmpty) return type
  let variant = variants.get(type)
  if (!variant) {
    variant = { ...type, canBeEmpty: true }
    variants.set(type, variant)
    variants.set(variant, type)
  }
  return variant
}

/** Returns a type that is not empty. */
export function notEmpty(type: Type): Type {
  if (type.kind === 'unknown' || type.kind === 'nothing' || !type.canBeEmpty) return type
  let variant = variants.get(type)
  if (!variant) {
    const { canBeEmpty: _, ...rest } = type
    variant = rest
    variants.set(type, variant)
    variants.set(variant, type)
  }
  return variant
}

/** Returns the type of a value that has one type or another: the first one, if it includes the other. */
export function either(one: Type, other: Type): Type {
  if (one === other) return one
  if (one.kind === 'nothing') return orEmpty(other)
  if (other.kind === 'nothing') return orEmpty(one)
  const joined = joinedKinds(notEmpty(one), notEmpty(other))
  return canBeEmpty(one) || canBeEmpty(other) ? orEmpty(joined) : joined
}

/** @param one not empty @param other not empty */
function joinedKinds(one: Type, other: Type): Type {
  if (one === other) return one
  if (one.kind === 'list' && other.kind === 'list') {
    const of = either(one.of, other.of)
    return of === one.of ? one : of === other.of ? other : listOf(of)
  }
  if (one.kind === 'row' && other.kind === 'row')
    return one.name !== other.name ? UNKNOWN : one.fields.size >= other.fields.size ? one : other
  return one.kind === other.kind ? one : UNKNOWN
}

const plural = (noun: string) => (/[^aeiou]y$/.test(noun) ? `${noun.slice(0, -1)}ies` : `${noun}s`)

/** Returns the kind of a value as a noun. */
export function kindInWords(type: Type): string {
  switch (type.kind) {
    case 'unknown':
      return 'value'
    case 'nothing':
      return 'empty value'
    case 'list':
      return `list of ${plural(kindInWords(type.of))}`
    case 'row':
      return type.name
    case 'boolean':
      return 'true or false value'
    case 'html':
      return 'HTML text'
    default:
      return type.kind
  }
}

/** Returns a type in words, e.g. `post, possibly empty`. */
export const typeInWords = (type: Type): string =>
  type.kind !== 'nothing' && canBeEmpty(type) ? `${kindInWords(type)}, possibly empty` : kindInWords(type)

/** Returns a noun with its indefinite article. */
export function withArticle(noun: string, isCapital = false): string {
  const article = /^(?:[aeio]|HTML)/.test(noun) ? 'an' : 'a'
  return `${isCapital ? `A${article.slice(1)}` : article} ${noun}`
}
