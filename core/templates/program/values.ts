/** How templates read, compare and print values: as liquidjs does, without its generators. */
import { defaultOperators, Drop, toValue, toValueSync, Tokenizer, TypeGuards, type Context } from 'liquidjs'
import { isoTime } from '../../content/iso-time.ts'
import { escapeHtml, Placeholder, SafeHtml } from '../../content/html/safe-html.ts'
import type { ConstantName } from '../tree.ts'

/** Runs a generator to its end: filters and operators of liquidjs may return one. */
export const settled = (value: unknown): unknown =>
  typeof value === 'object' && value !== null && 'next' in value && typeof value.next === 'function'
    ? toValueSync(value as never)
    : value

/** The counters of a loop: `forloop` and `tablerowloop`. */
export class LoopState extends Drop {
  i = 0
  constructor(
    readonly length: number,
    readonly name: string,
    readonly cols?: number,
  ) {
    super()
  }
  /** Returns what a filter gets. */
  override valueOf(): string {
    const { i, length, name, cols } = this
    return JSON.stringify({ i, length, name, cols })
  }

  /** Returns the counters as they are now. */
  plain(): object {
    const names = this.cols === undefined ? COUNTERS : [...COUNTERS, ...OF_TABLE]
    return Object.fromEntries(names.map((name) => [name, this.read(name)]))
  }

  read(key: unknown): unknown {
    const { i, length, cols } = this
    switch (key) {
      case 'index':
        return i + 1
      case 'index0':
        return i
      case 'first':
        return i === 0
      case 'last':
        return i === length - 1
      case 'rindex':
        return length - i
      case 'rindex0':
        return length - i - 1
      case 'length':
        return length
      case 'name':
        return this.name
    }
    if (cols === undefined) return undefined
    switch (key) {
      case 'cols':
        return cols
      case 'row':
        return Math.floor(i / cols) + 1
      case 'col':
        return (i % cols) + 1
      case 'col0':
        return i % cols
      case 'col_first':
        return i % cols === 0
      case 'col_last':
        return (i % cols) + 1 === cols
    }
    return undefined
  }
}

const COUNTERS = ['index', 'index0', 'first', 'last', 'rindex', 'rindex0', 'length', 'name']
const OF_TABLE = ['cols', 'row', 'col', 'col0', 'col_first', 'col_last']

/** The value of `block` inside a block. */
export class BlockValue extends Drop {
  readonly #base: () => string
  /** @param base renders what the layout has in the block's place */
  constructor(base: () => string) {
    super()
    this.#base = base
  }
  /** Everything in it was escaped when it was rendered. */
  super(): SafeHtml {
    return new SafeHtml(this.#base())
  }
}

const isPlainObject = (value: object): boolean => Object.getPrototypeOf(value) === Object.prototype

/** Returns a property of a value, as `value.key` reads it. */
export function property(value: unknown, key: unknown): unknown {
  if (value === null || value === undefined) return value
  // A plain object inherits nothing but functions and `__proto__`.
  if (typeof key === 'string' && typeof value === 'object' && key !== '__proto__' && isPlainObject(value)) {
    const found = (value as Record<string, unknown>)[key]
    if (found !== undefined && typeof found !== 'function') return found
  }
  if (typeof value === 'object' && typeof key === 'string' && Object.hasOwn(value, key)) {
    const found = (value as Record<string, unknown>)[key]
    // The last item of a list has no property of its own.
    if (typeof found !== 'function' && !(value instanceof Drop)) return found
  }
  return propertyOf(value, toValue(key))
}

function propertyOf(value: unknown, key: unknown): unknown {
  if (value instanceof LoopState) return value.read(key)
  const object = value as Record<PropertyKey, unknown>
  if (Array.isArray(value) && typeof key === 'number') {
    const index = key < 0 ? value.length + key : key
    return Object.hasOwn(value, index) ? (value as unknown[])[index] : undefined
  }
  const name = key as PropertyKey
  const found =
    value instanceof Drop || Object.hasOwn(Object(value) as object, name) ? object[name] : undefined
  if (typeof found === 'function') return settled((found as () => unknown).call(value))
  if (value instanceof Drop) return found
  switch (key) {
    case 'size':
      return sizeOf(value, found)
    case 'first':
      return Array.isArray(value) ? (value as unknown[])[0] : found
    case 'last':
      return Array.isArray(value) ? (value as unknown[]).at(-1) : found
    default:
      return found
  }
}

function sizeOf(value: unknown, found: unknown): unknown {
  if (found !== undefined) return found
  if (Array.isArray(value) || typeof value === 'string') return value.length
  return typeof value === 'object' ? Object.keys(value as object).length : undefined
}

/** Returns the items of a value that a loop goes through. */
export function itemsOf(value: unknown): readonly unknown[] {
  if (Array.isArray(value)) return value as unknown[]
  const plain: unknown = toValue(value)
  if (Array.isArray(plain)) return plain as unknown[]
  if (typeof plain === 'string') return plain.length > 0 ? [plain] : []
  if (typeof plain !== 'object' || plain === null) return []
  if (Symbol.iterator in plain) return Array.from(plain as Iterable<unknown>)
  return Object.entries(plain)
}

/** Only `false` and nothing are false. */
export function isTrue(value: unknown): boolean {
  if (value === false || value === undefined || value === null) return false
  if (!(value instanceof Drop)) return true
  const plain: unknown = toValue(value)
  return plain !== false && plain !== undefined && plain !== null
}

/** liquidjs's values for `nil`, `empty` and `blank`, which its filters know. */
export function constant(name: ConstantName): unknown {
  const token = new Tokenizer(name).readValue()
  if (!token || !TypeGuards.isLiteralToken(token)) throw new Error(`“${name}” is no constant.`)
  return token.content
}

const isPlain = (value: unknown): boolean =>
  (typeof value !== 'object' || value === null) && typeof value !== 'function'

/** Operators do not look at the context. */
const NO_CONTEXT = { opts: { jsTruthy: false } } as unknown as Context

type Binary = (left: unknown, right: unknown) => unknown

const byLiquid =
  (operator: string): Binary =>
  (left, right) =>
    settled(
      (defaultOperators[operator] as (left: unknown, right: unknown, context: Context) => unknown)(
        left,
        right,
        NO_CONTEXT,
      ),
    )

const equalByLiquid = byLiquid('==')
/** Whether two values are equal. */
export const areEqual = (left: unknown, right: unknown): boolean =>
  isPlain(left) && isPlain(right) ? left === right : equalByLiquid(left, right) === true

const compared = (operator: string, plainly: (left: number, right: number) => boolean): Binary => {
  const other = byLiquid(operator)
  return (left, right) =>
    isPlain(left) && isPlain(right) ? plainly(left as number, right as number) : other(left, right)
}
const containsByLiquid = byLiquid('contains')

/** The operators with two operands, except `and` and `or`. */
export const OPERATORS: Readonly<Record<string, Binary>> = {
  '==': areEqual,
  '!=': (left, right) => !areEqual(left, right),
  '>': compared('>', (left, right) => left > right),
  '<': compared('<', (left, right) => left < right),
  '>=': compared('>=', (left, right) => left >= right),
  '<=': compared('<=', (left, right) => left <= right),
  contains: (left, right) =>
    Array.isArray(left) ? left.some((one) => areEqual(one, right)) : containsByLiquid(left, right),
}

/** Returns a value as it is printed: text is escaped, safe HTML is not, a row prints nothing. */
export function printed(value: unknown): string {
  if (typeof value === 'string') return escapeHtml(value)
  if (typeof value === 'number') return String(value)
  if (value === null || value === undefined) return ''
  if (value instanceof SafeHtml) return value.html
  if (value instanceof Placeholder) return value.mark
  if (value instanceof Date) return isoTime(value)
  if (Array.isArray(value)) return value.map(printed).join('')
  return typeof value === 'object' || typeof value === 'function' ? '' : escapeHtml(String(value))
}
