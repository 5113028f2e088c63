/** Reads a YAML document and validates it against a schema. Every problem names its file, path, line and column. */
import { Ajv, type ValidateFunction } from 'ajv'
import { isScalar, LineCounter, parseDocument, visit, type Document, type YAMLError } from 'yaml'
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
  // The parser compares each key with each other one, so `repeatedKeys` finds them instead.
  const document = parseDocument(text, { lineCounter: lines, prettyErrors: false, uniqueKeys: false })
  const placeAt = (offset: number): Place => {
    const { line, col } = lines.linePos(offset)
    return { line: line + firstLine - 1, column: col }
  }
  const refused = (problems: Problem[]): Failure => ({ ok: false, why: 'problems', problems })
  if (document.errors.length > 0) {
    const at = (offset: number) => ({ file, ...placeAt(offset) })
    const tab = tabOffset(text, document.errors)
    if (tab !== undefined) return refused([{ ...at(tab), ...YAML_PROBLEMS['yaml-tab']() }])
    const problems = document.errors.slice(0, MOST_PROBLEMS).map((error) => {
      const opener = openerOf(text, error.code, error.pos[0])
      return opener === undefined
        ? { ...at(error.pos[0]), ...parserProblem(error.message) }
        : {
            ...at(opener),
            ...YAML_PROBLEMS['yaml-not-closed'](text.charAt(opener), placeAt(error.pos[0]).line),
          }
    })
    // The parser reports a document that is nested too deeply once for each level; one report is enough.
    const deep = problems.find((one) => one.code === 'yaml-too-deep')
    return refused(deep ? [deep] : withRest(problems, document.errors.length))
  }
  const repeated = [...repeatedKeys(document)]
  if (repeated.length > 0)
    return refused(
      withRest(
        repeated
          .slice(0, MOST_PROBLEMS)
          .map((offset) => ({ file, ...placeAt(offset), ...YAML_PROBLEMS['yaml-key-repeated']() })),
        repeated.length,
      ),
    )
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

/** Problems that are listed. A parser that has lost its way reports one for each of the following lines. */
const MOST_PROBLEMS = 20

/** Adds how many problems are not listed. */
function withRest(problems: Problem[], total: number): Problem[] {
  const [last] = problems.slice(-1)
  const more = total - problems.length
  return last && more > 0 ? [...problems, { ...last, ...YAML_PROBLEMS['yaml-more'](more) }] : problems
}

/** Returns the offset of the tab that caused the first error: the parser reports it, or it is shortly before the error. */
function tabOffset(text: string, [first]: readonly YAMLError[]): number | undefined {
  if (first?.code === 'TAB_AS_INDENT') return text.indexOf('\t', first.pos[0])
  const offset = first?.pos[0] ?? 0
  const end = text.indexOf('\n', offset)
  const before = text.slice(0, end === -1 ? text.length : end)
  const start = before.split('\n').slice(0, -3).join('\n').length
  const found = /(^|\n) *\t/.exec(before.slice(start))
  return found ? start + found.index + found[0].length - 1 : undefined
}

/** Returns the offset of the bracket or quote that an error is about, because it is not closed. */
function openerOf(text: string, code: string, offset: number): number | undefined {
  if (code !== 'MISSING_CHAR' && code !== 'BAD_INDENT') return undefined
  const open: number[] = []
  let quote = ''
  for (let at = 0; at < offset; at++) {
    const one = text.charAt(at)
    if (quote !== '') {
      if (one === '\\' && quote === '"') at++
      else if (one === quote) {
        quote = ''
        open.pop()
      }
    } else if (one === '#' && /^|\s/.test(text.charAt(at - 1))) at = Math.max(at, text.indexOf('\n', at) - 1)
    else if ((one === '"' || one === "'") && /[\s:,[{-]/.test(text.charAt(at - 1) || ' ')) {
      quote = one
      open.push(at)
    } else if (one === '{' || one === '[') open.push(at)
    else if ((one === '}' || one === ']') && open.length > 0) open.pop()
  }
  return open.at(-1)
}

/** Yields the offsets of keys that a map has already. */
function* repeatedKeys(document: Document): Generator<number> {
  const offsets: number[] = []
  visit(document, {
    Map: (_, map) => {
      const known = new Set<unknown>()
      for (const { key } of map.items) {
        if (!isScalar(key) || key.value === '<<') continue
        if (known.has(key.value)) offsets.push(key.range?.[0] ?? 0)
        known.add(key.value)
      }
    },
  })
  yield* offsets
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
