/** Reads a YAML document and validates it against a schema. Every problem names its file, path, line and column. */
import { Ajv, type ValidateFunction } from 'ajv'
import { LineCounter, parseDocument, type Document } from 'yaml'
import { explainErrors } from './explain-errors.ts'
import type { Failure } from './outcome.ts'
import type { Problem } from './problem.ts'
import { YAML_PROBLEMS } from './problems.ts'
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
  /** 1-based. */
  line: number
  /** 1-based. */
  column: number
}
export type PlaceOf = (path: readonly (string | number)[]) => Place | undefined

export type YamlResult<T> = { ok: true; value: T; placeOf: PlaceOf } | Failure

/**
 * Parses and validates a YAML text.
 * @param firstLine line of the file on which the text starts, 1-based; front matter starts on line 2
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
  const refused = (problems: Problem[]): Failure => ({ ok: false, why: 'problems', problems })
  if (document.errors.length > 0) {
    const problems = document.errors.map((error) => ({
      file,
      ...placeAt(error.pos[0]),
      ...parserProblem(error.message),
    }))
    // The parser reports a document that is nested too deeply once for each level; one report is enough.
    const deep = problems.find((one) => one.code === 'yaml-too-deep')
    return refused(deep ? [deep] : problems)
  }
  let value: unknown
  try {
    value = document.toJS({ maxAliasCount: 50 }) ?? undefined
  } catch (error) {
    return refused([{ file, line: firstLine, column: 1, ...parserProblem(String(error)) }])
  }
  const placeOf: PlaceOf = (path) => placeInDocument(document, path, placeAt)
  const problems = checkValue(file, value, schema, placeOf)
  if (problems.length > 0) return refused(problems)
  return { ok: true, value: value as Static<S>, placeOf }
}

/** Validates a plain value against a schema. */
export function checkValue(file: string, value: unknown, schema: TSchema, placeOf?: PlaceOf): Problem[] {
  const validate = validatorOf(schema)
  if (validate(value)) return []
  return explainErrors(validate.errors ?? []).map(({ path, pointer, ...worded }) => ({
    file,
    path: pointer,
    ...placeOf?.(path),
    ...worded,
  }))
}

/** Returns true for the error that JavaScript throws when recursion is too deep. */
export const isTooDeep = (message: string): boolean => /Maximum call stack size exceeded/.test(message)

function parserProblem(message: string) {
  if (isTooDeep(message)) return YAML_PROBLEMS['yaml-too-deep']()
  const reason = message.replace(/\s+at line \d+.*$/s, '').replace(/^\w*Error: /, '')
  return YAML_PROBLEMS['yaml-invalid'](/[.?!]$/.test(reason) ? reason : `${reason}.`)
}

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

/** Returns the offset of a map's key: the best place for a problem of the key or of its value. */
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
