/** Reads a YAML document against a schema; every problem names file, path, line and column. */
import { Ajv, type ErrorObject, type ValidateFunction } from 'ajv'
import { LineCounter, parseDocument, type Document } from 'yaml'
import type { Problem } from './problem.ts'
import type { Static, TSchema } from './schemas.ts'

const ajv = new Ajv({ allErrors: true, strict: false, verbose: true })
const validators = new WeakMap<object, ValidateFunction>()

function validatorOf(schema: TSchema): ValidateFunction {
  const known = validators.get(schema)
  if (known) return known
  const made = ajv.compile(schema)
  validators.set(schema, made)
  return made
}

export interface Place {
  line: number
  column: number
}
export type PlaceOf = (path: readonly (string | number)[]) => Place | undefined

export type YamlResult<T> = { ok: true; value: T; placeOf: PlaceOf } | { ok: false; problems: Problem[] }

/**
 * Parses and checks one YAML text.
 * @param firstLine the line of the file on which the text starts (front matter starts on line 2)
 */
export function readYaml<S extends TSchema>(
  file: string,
  text: string,
  schema: S,
  firstLine = 1,
): YamlResult<Static<S>> {
  const lines = new LineCounter()
  const document = parseDocument(text, { lineCounter: lines, prettyErrors: false, uniqueKeys: true })
  const placeAt = (offset: number): Place => {
    const { line, col } = lines.linePos(offset)
    return { line: line + firstLine - 1, column: col }
  }
  if (document.errors.length > 0) {
    return {
      ok: false,
      problems: document.errors.map((error) => ({
        file,
        ...placeAt(error.pos[0]),
        message: sentence(error.message),
      })),
    }
  }
  let value: unknown
  try {
    value = document.toJS({ maxAliasCount: 50 }) ?? undefined
  } catch (error) {
    return { ok: false, problems: [{ file, line: firstLine, column: 1, message: sentence(String(error)) }] }
  }
  const placeOf: PlaceOf = (path) => placeInDocument(document, path, placeAt)
  const problems = checkValue(file, value, schema, placeOf)
  if (problems.length > 0) return { ok: false, problems }
  return { ok: true, value: value as Static<S>, placeOf }
}

/** Checks a plain value against a schema. */
export function checkValue(file: string, value: unknown, schema: TSchema, placeOf?: PlaceOf): Problem[] {
  const validate = validatorOf(schema)
  if (validate(value)) return []
  return worthTelling(validate.errors ?? []).map((error) => {
    const path = error.instancePath.split('/').slice(1).map(unescapePointer)
    const extra = error.params['additionalProperty'] as string | undefined
    const place = placeOf?.(extra === undefined ? path : [...path, extra])
    return { file, path: error.instancePath || '/', ...place, ...explain(error) }
  })
}

/** A failed union reports every branch; keep what lies deepest, where the author most likely meant it. */
function worthTelling(errors: ErrorObject[]): ErrorObject[] {
  const unions = errors.filter((error) => error.keyword === 'anyOf')
  const kept = errors.filter((error) => {
    const union = unions.find((one) => error !== one && error.schemaPath.startsWith(`${one.schemaPath}/`))
    if (union) {
      const isBranchType = error.instancePath === union.instancePath && error.keyword === 'type'
      return !isBranchType
    }
    if (error.keyword !== 'anyOf') return true
    return !errors.some(
      (other) =>
        other !== error &&
        other.schemaPath.startsWith(`${error.schemaPath}/`) &&
        !(other.instancePath === error.instancePath && other.keyword === 'type'),
    )
  })
  const seen = new Set<string>()
  return (kept.length > 0 ? kept : errors).filter((error) => {
    const key = `${error.instancePath} ${error.keyword} ${JSON.stringify(error.params)}`
    return !seen.has(key) && seen.add(key)
  })
}

function explain(error: ErrorObject): Pick<Problem, 'message' | 'hint'> {
  const at = error.instancePath.split('/').at(-1)
  const what = at && !/^\d+$/.test(at) ? `“${unescapePointer(at)}”` : 'this'
  const params = error.params as Record<string, unknown>
  switch (error.keyword) {
    case 'additionalProperties': {
      const known = Object.keys((error.parentSchema?.['properties'] as object | undefined) ?? {})
      return {
        message: `“${String(params['additionalProperty'])}” is not known here`,
        hint: `known: ${known.join(', ')}`,
      }
    }
    case 'required':
      return { message: `“${String(params['missingProperty'])}” is missing` }
    case 'enum':
      return {
        message: `${what} is ${show(error.data)}`,
        hint: `one of: ${(params['allowedValues'] as string[]).join(', ')}`,
      }
    case 'type':
      return { message: `${what} must be ${article(String(params['type']))}, not ${show(error.data)}` }
    case 'pattern':
      return {
        message: `${what} is ${show(error.data)}, which does not have the form it needs`,
        // A schema with a pattern says in words what it asks for.
        hint: String(error.parentSchema?.['description'] ?? `form: ${String(params['pattern'])}`),
      }
    case 'maxLength':
      return { message: `${what} is longer than ${String(params['limit'])} characters` }
    case 'minLength':
      return { message: `${what} is empty` }
    default:
      return { message: `${what} ${error.message ?? 'is not valid'}` }
  }
}

const show = (value: unknown) => {
  const text = typeof value === 'string' ? `“${value}”` : asJson(value)
  return text.length > 60 ? `${text.slice(0, 57)}…` : text
}
/** An alias in its own anchor makes a value that contains itself. */
function asJson(value: unknown): string {
  try {
    return JSON.stringify(value) ?? 'nothing'
  } catch {
    return 'a value that contains itself'
  }
}
/** With “a” or “an”. */
export const article = (type: string) => (/^[aeio]/.test(type) ? `an ${type}` : `a ${type}`)
const unescapePointer = (part: string) => part.replaceAll('~1', '/').replaceAll('~0', '~')
const sentence = (text: string) => text.replace(/\s+at line \d+.*$/s, '').replace(/^\w*Error: /, '')

function placeInDocument(
  document: Document,
  path: readonly (string | number)[],
  placeAt: (offset: number) => Place,
): Place | undefined {
  for (let length = path.length; length >= 0; length--) {
    const keys = path
      .slice(0, length)
      .map((key) => (typeof key === 'string' && /^\d+$/.test(key) ? Number(key) : key))
    const parent: unknown = length === 0 ? undefined : document.getIn(keys.slice(0, -1), true)
    const offset =
      keyOffset(parent, keys.at(-1)) ??
      rangeStart(length === 0 ? document.contents : document.getIn(keys, true))
    if (offset !== undefined) return placeAt(offset)
  }
  return undefined
}

/** Where a key of a map stands: the best place for a problem of the key or its value. */
function keyOffset(parent: unknown, key: unknown): number | undefined {
  if (typeof parent !== 'object' || parent === null || !('items' in parent)) return undefined
  for (const item of parent.items as unknown[]) {
    if (typeof item !== 'object' || item === null || !('key' in item)) continue
    const node = item.key as { value?: unknown; range?: [number, number, number] }
    if (node.value === key) return node.range?.[0]
  }
  return undefined
}

function rangeStart(node: unknown): number | undefined {
  return typeof node === 'object' && node !== null && 'range' in node
    ? (node.range as [number, number, number] | null)?.[0]
    : undefined
}
