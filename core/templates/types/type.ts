/** The types of values in templates. */

export type Type =
  /** Nothing is known of it, so nothing is said about it. */
  | { kind: 'unknown' }
  /** Always empty. */
  | { kind: 'nothing' }
  | { kind: 'text' | 'number' | 'boolean' | 'date' | 'html'; canBeEmpty?: boolean }
  | { kind: 'list'; of: Type; canBeEmpty?: boolean }
  | RowType

export interface RowType {
  kind: 'row'
  /** What it is, e.g. `post` or `page of posts`. */
  name: string
  fields: ReadonlyMap<string, Type>
  /** Fields that exist, but are not there in this case: name → the reason, as a sentence with what to do. */
  absent: ReadonlyMap<string, string>
  canBeEmpty?: boolean
}

export const UNKNOWN: Type = { kind: 'unknown' }
export const NOTHING: Type = { kind: 'nothing' }
export const TEXT: Type = { kind: 'text' }
export const NUMBER: Type = { kind: 'number' }
export const BOOLEAN: Type = { kind: 'boolean' }
export const DATE: Type = { kind: 'date' }
export const HTML: Type = { kind: 'html' }
export const listOf = (of: Type): Type => ({ kind: 'list', of })

const NONE: ReadonlyMap<string, string> = new Map()

export const row = (
  name: string,
  fields: Readonly<Record<string, Type>> | ReadonlyMap<string, Type>,
  absent: ReadonlyMap<string, string> = NONE,
): RowType => ({
  kind: 'row',
  name,
  fields: fields instanceof Map ? fields : new Map(Object.entries(fields)),
  absent,
})

export const canBeEmpty = (type: Type): boolean =>
  type.kind === 'nothing' || (type.kind !== 'unknown' && type.canBeEmpty === true)

/** Returns a type that may also be empty. */
export const orEmpty = (type: Type): Type =>
  type.kind === 'unknown' || type.kind === 'nothing' ? type : { ...type, canBeEmpty: true }

/** Returns a type that is not empty. */
export function notEmpty(type: Type): Type {
  if (type.kind === 'unknown' || type.kind === 'nothing' || !type.canBeEmpty) return type
  const { canBeEmpty: _, ...rest } = type
  return rest
}

/** Returns the type of a value that has one type or another. */
export function either(one: Type, other: Type): Type {
  if (one === other) return one
  if (one.kind === 'nothing') return orEmpty(other)
  if (other.kind === 'nothing') return orEmpty(one)
  if (one.kind === 'list' && other.kind === 'list')
    return withEmptiness(listOf(either(one.of, other.of)), one, other)
  if (one.kind === 'row' && other.kind === 'row' && one.name === other.name)
    return withEmptiness(one.fields.size >= other.fields.size ? one : other, one, other)
  if (one.kind === other.kind && one.kind !== 'row') return withEmptiness(one, one, other)
  return UNKNOWN
}

const withEmptiness = (type: Type, one: Type, other: Type): Type =>
  canBeEmpty(one) || canBeEmpty(other) ? orEmpty(type) : notEmpty(type)

/** Returns a type in words, e.g. `list of posts, or nothing`. */
export function typeInWords(type: Type): string {
  const words = ((): string => {
    switch (type.kind) {
      case 'unknown':
        return 'any value'
      case 'nothing':
        return 'nothing'
      case 'list':
        return `list (of ${typeInWords(type.of)})`
      case 'row':
        return type.name
      default:
        return type.kind
    }
  })()
  return type.kind !== 'nothing' && canBeEmpty(type) ? `${words}, or nothing` : words
}
