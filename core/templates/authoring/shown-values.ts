/** Lists the names at a place in a template with their types and values, as a table with expandable rows. */
import { SafeHtml } from '../../content/html/safe-html.ts'
import type { NameValue } from '../recorder.ts'
import { canBeEmpty, kindInWords, UNKNOWN, type Type } from '../types/type.ts'

export interface ShownValue {
  /** 0 for a name, more for fields and items in it. */
  depth: number
  name: string
  /** As templates write it: `post.category.name`. */
  path: string
  type: string
  canBeEmpty: boolean
  /** The start of the value; null if it is not known. */
  value: string | null
  isEmpty: boolean
}

export interface ShownValues {
  rows: ShownValue[]
  /** Whether values are left out because there are too many. */
  isCut: boolean
}

const DEEPEST = 4
const ITEMS = 3
const MOST_ROWS = 600
const LONGEST = 120

/**
 * @param values of the names; undefined if the place was not rendered
 * @param types of the names, in the order in which they are listed
 */
export function shownValues(
  values: ReadonlyMap<string, NameValue> | undefined,
  types: ReadonlyMap<string, Type>,
): ShownValues {
  const rows: ShownValue[] = []
  let isCut = false
  const add = (name: string, path: string, type: Type, found: NameValue | undefined, depth: number) => {
    if (rows.length >= MOST_ROWS) {
      isCut = true
      return
    }
    const value = found && 'value' in found ? found.value : undefined
    const isKnown = found !== undefined && 'value' in found
    rows.push({
      ...{ depth, name, path },
      type: type.kind === 'unknown' && isKnown ? kindOf(value) : kindInWords(type),
      canBeEmpty: type.kind !== 'nothing' && canBeEmpty(type),
      value: isKnown ? valueText(value) : null,
      isEmpty: isKnown && (value === null || value === undefined || value === ''),
    })
    if (depth >= DEEPEST) return
    for (const part of partsOf(type, value, isKnown))
      add(
        part.name,
        part.step.startsWith('[') ? path + part.step : `${path}.${part.step}`,
        part.type,
        part.found,
        depth + 1,
      )
  }
  for (const [name, type] of types) add(name, name, type, values?.get(name), 0)
  for (const [name, value] of values ?? []) if (!types.has(name)) add(name, name, UNKNOWN, value, 0)
  return { rows, isCut }
}

interface Part {
  name: string
  step: string
  type: Type
  found: NameValue | undefined
}

function* partsOf(type: Type, value: unknown, isKnown: boolean): Generator<Part> {
  if (Array.isArray(value)) {
    const of = type.kind === 'list' ? type.of : UNKNOWN
    for (const [index, item] of value.slice(0, ITEMS).entries())
      yield { name: `[${index}]`, step: `[${index}]`, type: of, found: { value: item } }
    return
  }
  if (type.kind === 'list') {
    yield { name: '[0]', step: '[0]', type: type.of, found: undefined }
    return
  }
  const fields = type.kind === 'row' ? type.fields : fieldsOf(value)
  for (const [name, field] of fields)
    yield { name, step: name, type: field, found: isKnown ? fieldOf(value, name) : undefined }
}

/** Returns the fields of an object whose type is not known. */
function fieldsOf(value: unknown): ReadonlyMap<string, Type> {
  const isPlain =
    typeof value === 'object' && value !== null && !(value instanceof Date) && !(value instanceof SafeHtml)
  return new Map(isPlain ? Object.keys(value).map((name) => [name, UNKNOWN]) : [])
}

function fieldOf(value: unknown, name: string): NameValue {
  if (typeof value !== 'object' || value === null) return { value: undefined }
  // Queries fetch only the fields that are read.
  if (!(name in value)) return { error: undefined }
  try {
    return { value: (value as Record<string, unknown>)[name] }
  } catch (error) {
    return { error }
  }
}

function kindOf(value: unknown): string {
  if (value instanceof Date) return 'date'
  if (value instanceof SafeHtml) return 'HTML text'
  if (Array.isArray(value)) return 'list'
  return typeof value === 'string' ? 'text' : typeof value === 'number' ? 'number' : 'value'
}

function valueText(value: unknown): string {
  if (value === null || value === undefined) return ''
  if (value instanceof Date) return Number.isNaN(value.getTime()) ? '' : value.toISOString()
  if (Array.isArray(value)) return itemsText(value)
  if (value instanceof SafeHtml || typeof value !== 'object') return shortened(String(value))
  const { title, name, path, items } = value as Record<string, unknown>
  if (Array.isArray(items)) return itemsText(items)
  const label = [title, name, path].find((one) => typeof one === 'string')
  return label === undefined ? '' : shortened(label)
}

const itemsText = ({ length }: readonly unknown[]) => `${length} ${length === 1 ? 'item' : 'items'}`

const shortened = (text: string): string => {
  const line = text.replace(/\s+/g, ' ').trim()
  return line.length > LONGEST ? `${line.slice(0, LONGEST)}…` : line
}
