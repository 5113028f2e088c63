/** Reads a YAML document against a schema; every problem names file, path, line and column. */
import { Ajv, type ValidateFunction } from 'ajv'
import { LineCounter, parseDocument, type Document } from 'yaml'
import { explainErrors } from './explain-errors.ts'
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
    const problems = document.errors.map((error) => ({
      file,
      ...placeAt(error.pos[0]),
      message: sentence(error.message),
    }))
    // What lies too deep is told at each place on the way up again: once is enough.
    const deep = problems.find((one) => one.message === TOO_DEEP)
    return { ok: false, problems: deep ? [deep] : problems }
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
  return explainErrors(validate.errors ?? []).map(({ path, pointer, ...told }) => ({
    file,
    path: pointer,
    ...placeOf?.(path),
    ...told,
  }))
}

export const TOO_DEEP = 'this lies too deep in other things to be read'
const sentence = (text: string) =>
  text
    .replace(/\s+at line \d+.*$/s, '')
    .replace(/^\w*Error: /, '')
    .replace(/^Maximum call stack size exceeded$/, TOO_DEEP)

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
