/**
 * Where a value comes from: what identifies it in the key of a copy, and what it depends on. Rows and lists of rows carry
 * it under a symbol, which templates cannot name. Any other value identifies itself.
 */
import { SafeHtml } from '../content/html/safe-html.ts'
import { hashOf } from '../shapes/hash.ts'
import { joinDependences, NOTHING, type Dependence } from './dependence.ts'

/** The names by which a template can reach fields; `all` if it can reach any. */
export type NamedFields = ReadonlySet<string> | 'all'

export interface Provenance {
  /** Returns what identifies the value, as far as a template with these names can see it. */
  key(named: NamedFields): string
  readonly dependence: Dependence
}

const PROVENANCE: unique symbol = Symbol('provenance')

export function withProvenance<T extends object>(value: T, provenance: Provenance): T {
  Object.defineProperty(value, PROVENANCE, { value: provenance, configurable: true })
  return value
}

export const provenanceOf = (value: object): Provenance | undefined =>
  (value as { [PROVENANCE]?: Provenance })[PROVENANCE]

/** What identifies a value in a key, and what it depends on. */
export interface KeyedInput {
  key: string
  dependence: Dependence
}

/** Values in a value that are followed. A value with more has no key. */
const MOST_VALUES = 2_000
const DEEPEST = 8
/** Longer texts are represented by their hash. */
const LONGEST = 120

/** Returns the part of a key for a value; undefined if it is too large, or contains what cannot be identified. */
export function keyedInput(value: unknown, named: NamedFields): KeyedInput | undefined {
  const reader = new ValueReader(named)
  const key = reader.read(value, 0)
  return key === undefined
    ? undefined
    : { key, dependence: joinDependences([NOTHING, ...reader.dependences]) }
}

class ValueReader {
  readonly dependences: Dependence[] = []
  readonly #named: NamedFields
  #left = MOST_VALUES

  constructor(named: NamedFields) {
    this.#named = named
  }

  read(value: unknown, depth: number): string | undefined {
    if (--this.#left < 0 || depth > DEEPEST) return undefined
    if (value === undefined || value === null) return 'null'
    if (typeof value === 'string') return short(value)
    if (typeof value === 'number' || typeof value === 'boolean' || typeof value === 'bigint')
      return String(value)
    if (typeof value !== 'object') return undefined
    if (value instanceof Date) return Number.isNaN(value.getTime()) ? 'no time' : value.toISOString()
    if (value instanceof SafeHtml) return `html ${hashOf(value.html)}`
    const provenance = provenanceOf(value)
    if (provenance) {
      this.dependences.push(provenance.dependence)
      return provenance.key(this.#named)
    }
    return Array.isArray(value) ? this.#list(value, depth) : this.#object(value, depth)
  }

  #list(values: readonly unknown[], depth: number): string | undefined {
    const parts: string[] = []
    for (const one of values) {
      const part = this.read(one, depth + 1)
      if (part === undefined) return undefined
      parts.push(part)
    }
    return `[${parts.join(',')}]`
  }

  #object(value: object, depth: number): string | undefined {
    const parts: string[] = []
    for (const [name, one] of Object.entries(value)) {
      if (!isNamed(this.#named, name)) continue
      const part = this.read(one, depth + 1)
      if (part === undefined) return undefined
      parts.push(`${name}:${part}`)
    }
    return `{${parts.join(',')}}`
  }
}

export const isNamed = (named: NamedFields, field: string): boolean => named === 'all' || named.has(field)

const short = (text: string) => (text.length > LONGEST ? `text ${hashOf(text)}` : JSON.stringify(text))

/** Identifies those of the fetched fields that a template can reach. */
export function reachable(fields: readonly string[], named: NamedFields): string {
  const names = named === 'all' ? ALL_NAMES : named
  let byFields = known.get(names)
  if (!byFields) known.set(names, (byFields = new WeakMap()))
  let text = byFields.get(fields)
  if (text === undefined) {
    const reached = fields.filter((one) => isNamed(named, one.split('.')[0] ?? one))
    byFields.set(fields, (text = hashOf(reached.join()).slice(0, 12)))
  }
  return text
}

const ALL_NAMES: ReadonlySet<string> = new Set()

/** Both sets of names are made once per definition. */
const known = new WeakMap<ReadonlySet<string>, WeakMap<readonly string[], string>>()
