/** Explains a schema's errors in the words of the document's author. */
import type { ErrorObject } from 'ajv'
import type { Worded } from './catalogue.ts'
import { VALUE_PROBLEMS } from './problems.ts'

/** What is wrong, and where in the value. */
export interface ValueProblem extends Worded {
  /** Keys and indexes from the whole value to the place. */
  path: string[]
  /** The same as a JSON pointer (RFC 6901); `/` is the whole value. */
  pointer: string
}

interface Schema {
  type?: string
  enum?: readonly unknown[]
  anyOf?: readonly Schema[]
  properties?: Readonly<Record<string, Schema>>
  required?: readonly string[]
  description?: string
}

/** Most problems reported of one value. */
const MOST_REPORTED = 100

/** An error; for the error of a union, also the errors of its branches about the same value or a part of it. */
interface Node {
  error: ErrorObject
  within: Node[]
}

/**
 * Explains the errors of one validation. Each fault is reported once; of a value that may have several forms, only the
 * faults of the form that was meant.
 * @param errors by Ajv with `allErrors` and `verbose`, in its order
 */
export function explainErrors(errors: readonly ErrorObject[]): ValueProblem[] {
  const found = new Map<string, ValueProblem>()
  for (const one of asTree(errors).flatMap(explainNode)) found.set(JSON.stringify(one), one)
  const all = [...found.values()]
  if (all.length <= MOST_REPORTED) return all
  return [
    ...all.slice(0, MOST_REPORTED),
    { path: [], pointer: '/', ...VALUE_PROBLEMS['value-more-problems'](all.length - MOST_REPORTED) },
  ]
}

/** Nests errors: Ajv reports a union right after the errors of its branches. */
function asTree(errors: readonly ErrorObject[]): Node[] {
  const stack: Node[] = []
  for (const error of errors) {
    let from = stack.length
    if (error.keyword === 'anyOf')
      for (let last = stack[from - 1]; last && isWithin(last.error, error); last = stack[from - 1]) from--
    stack.push({ error, within: stack.splice(from) })
  }
  return stack
}

const explainNode = ({ error, within }: Node): ValueProblem[] =>
  error.keyword === 'anyOf' ? explainUnion(error, within) : [placed(error, explain(error))]

/** True for an error of a branch of the union, about the same value or a part of it. */
function isWithin(error: ErrorObject, union: ErrorObject): boolean {
  return (
    error !== union &&
    error.schemaPath.startsWith(`${union.schemaPath}/`) &&
    (error.instancePath === union.instancePath || error.instancePath.startsWith(`${union.instancePath}/`))
  )
}

function explainUnion(union: ErrorObject, within: readonly Node[]): ValueProblem[] {
  const branches = union.schema as readonly Schema[]
  const { description } = (union.parentSchema ?? {}) as Schema
  const meant = meantBranch(branches, union.data, description === undefined)
  if (meant !== undefined) {
    const branch = `${union.schemaPath}/${meant}/`
    return within.filter((one) => one.error.schemaPath.startsWith(branch)).flatMap(explainNode)
  }
  const forms = branches.flatMap(formsOf)
  const known =
    forms.length > 1 ? `${forms.slice(0, -1).join(', ')} or ${forms.at(-1) ?? ''}` : (forms[0] ?? '')
  const hint = description === undefined ? '' : `Note: ${description}.`
  return [placed(union, VALUE_PROBLEMS['value-type'](nameOf(union), known, show(union.data), hint))]
}

/**
 * Decides which branch a value was meant for: the only one of its type; among maps, the one with most keys in common.
 * @param isKeyAlone whether a map with a single, unknown key counts as a misspelt one
 */
function meantBranch(branches: readonly Schema[], value: unknown, isKeyAlone: boolean): number | undefined {
  const kind = kindOf(value)
  const candidates = branches.flatMap((branch, index) => (kindsOf(branch).includes(kind) ? [index] : []))
  if (kind !== 'object') return candidates.length === 1 ? candidates[0] : undefined
  const keys = Object.keys(value as object)
  const inCommon = (index: number) =>
    keys.filter((key) => Object.hasOwn(branches[index]?.properties ?? {}, key)).length
  const [best] = candidates.sort((a, b) => inCommon(b) - inCommon(a))
  const isMisspelt = isKeyAlone && candidates.length === 1 && keys.length === 1
  return best !== undefined && (inCommon(best) > 0 || isMisspelt) ? best : undefined
}

function kindOf(value: unknown): string {
  if (Array.isArray(value)) return 'array'
  return value === null ? 'null' : typeof value
}

function kindsOf(schema: Schema): string[] {
  if (schema.anyOf) return schema.anyOf.flatMap(kindsOf)
  if (schema.enum) return schema.enum.map(kindOf)
  return [schema.type === 'integer' ? 'number' : (schema.type ?? '')]
}

/** Returns how the forms that a schema allows are written. */
function formsOf(schema: Schema): string[] {
  if (schema.anyOf) return schema.anyOf.flatMap(formsOf)
  if (schema.enum) return schema.enum.map((one) => `“${String(one)}”`)
  if (schema.type === 'object') return [`{ ${(schema.required ?? []).map((key) => `${key}: …`).join(', ')} }`]
  return [schema.type === 'array' ? 'a list' : article(schema.type ?? 'value')]
}

function explain(error: ErrorObject): Worded {
  const subject = nameOf(error)
  const params = error.params as Record<string, unknown>
  const limit = String(params['limit'])
  switch (error.keyword) {
    case 'additionalProperties': {
      const known = Object.keys((error.parentSchema as Schema | undefined)?.properties ?? {})
      return VALUE_PROBLEMS['value-key-unknown'](String(params['additionalProperty']), known)
    }
    case 'required':
      return VALUE_PROBLEMS['value-missing'](String(params['missingProperty']))
    case 'enum':
      return VALUE_PROBLEMS['value-not-allowed'](
        subject,
        show(error.data),
        (params['allowedValues'] as unknown[]).map(String),
      )
    case 'type':
      return VALUE_PROBLEMS['value-type'](subject, article(String(params['type'])), show(error.data), '')
    case 'pattern':
      return VALUE_PROBLEMS['value-form'](
        subject,
        show(error.data),
        // A schema with a pattern describes it in words.
        (error.parentSchema as Schema | undefined)?.description ?? String(params['pattern']),
      )
    case 'maxLength':
      return VALUE_PROBLEMS['value-too-long'](subject, limit)
    case 'minLength':
      return VALUE_PROBLEMS['value-empty'](subject)
    case 'maxItems':
      return VALUE_PROBLEMS['value-too-many-items'](subject, limit)
    case 'minItems':
      return limit === '1'
        ? VALUE_PROBLEMS['value-empty'](subject)
        : VALUE_PROBLEMS['value-too-few-items'](subject, limit)
    case 'minimum':
      return VALUE_PROBLEMS['value-too-small'](subject, show(error.data), limit)
    case 'maximum':
      return VALUE_PROBLEMS['value-too-large'](subject, show(error.data), limit)
    default:
      return VALUE_PROBLEMS['value-invalid'](subject, error.message ?? 'is not valid')
  }
}

function placed(error: ErrorObject, worded: Worded): ValueProblem {
  const extra = error.params['additionalProperty'] as string | undefined
  const path = error.instancePath.split('/').slice(1).map(unescapePointer)
  return {
    ...worded,
    path: extra === undefined ? path : [...path, extra],
    pointer: error.instancePath || '/',
  }
}

function nameOf({ instancePath }: ErrorObject): string {
  const at = instancePath.split('/').at(-1)
  return at && !/^\d+$/.test(at) ? `“${unescapePointer(at)}”` : 'This value'
}

function show(value: unknown): string {
  const text = typeof value === 'string' ? `“${value}”` : asJson(value)
  return text.length > 60 ? `${text.slice(0, 57)}…` : text
}

/** A YAML alias inside its own anchor makes a value that contains itself. */
function asJson(value: unknown): string {
  try {
    return JSON.stringify(value) ?? 'nothing'
  } catch (error) {
    return error instanceof RangeError ? 'a deeply nested value' : 'a value that contains itself'
  }
}

/** Puts “a” or “an” before a word. */
export const article = (type: string) => (/^[aeio]/.test(type) ? `an ${type}` : `a ${type}`)

const unescapePointer = (part: string) => part.replaceAll('~1', '/').replaceAll('~0', '~')
