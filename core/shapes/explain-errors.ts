/** What a schema has against a value, told as the author of the value would want to hear it. */
import type { ErrorObject } from 'ajv'

/** What is wrong, at a place within the value. */
export interface Told {
  /** Keys and places on the way from the whole value. */
  path: string[]
  /** The same as a JSON pointer (RFC 6901); `/` is the whole. */
  pointer: string
  message: string
  hint?: string
}

interface Schema {
  type?: string
  enum?: readonly unknown[]
  anyOf?: readonly Schema[]
  properties?: Readonly<Record<string, Schema>>
  required?: readonly string[]
  description?: string
}

/** Faults told of one value. */
const MOST_TOLD = 100

/** An error, and, where it is one of a union, what its branches have against the same value or something in it. */
interface Node {
  error: ErrorObject
  within: Node[]
}

/**
 * @param errors of one validation, by Ajv with `allErrors` and `verbose`, in its order
 * @returns each fault once; of a value that may be one of several things, the faults of the one that was meant
 */
export function explainErrors(errors: readonly ErrorObject[]): Told[] {
  const found = new Map<string, Told>()
  for (const one of asTree(errors).flatMap(explainNode)) found.set(JSON.stringify(one), one)
  const all = [...found.values()]
  if (all.length <= MOST_TOLD) return all
  const more = all.length - MOST_TOLD
  return [
    ...all.slice(0, MOST_TOLD),
    {
      path: [],
      pointer: '/',
      message: `there ${more === 1 ? 'is one more fault' : `are ${more} more faults`}`,
    },
  ]
}

/** A union is told right after what its branches have against it. */
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

const explainNode = ({ error, within }: Node): Told[] =>
  error.keyword === 'anyOf' ? explainUnion(error, within) : [told(error, ...explain(error))]

/** True for what a branch of the union has against the same value, or something in it. */
function isWithin(error: ErrorObject, union: ErrorObject): boolean {
  return (
    error !== union &&
    error.schemaPath.startsWith(`${union.schemaPath}/`) &&
    (error.instancePath === union.instancePath || error.instancePath.startsWith(`${union.instancePath}/`))
  )
}

function explainUnion(union: ErrorObject, within: readonly Node[]): Told[] {
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
  return [told(union, `${nameOf(union)} must be ${known}, not ${show(union.data)}`, description)]
}

/**
 * Which branch a value was meant for: the only one of its kind; of maps, the one whose keys it has.
 * @param isKeyAlone whether a map with one key, and that unknown, is taken for a misspelt one
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

/** How what a schema asks for is written. */
function formsOf(schema: Schema): string[] {
  if (schema.anyOf) return schema.anyOf.flatMap(formsOf)
  if (schema.enum) return schema.enum.map((one) => `“${String(one)}”`)
  if (schema.type === 'object') return [`{ ${(schema.required ?? []).map((key) => `${key}: …`).join(', ')} }`]
  return [schema.type === 'array' ? 'a list' : article(schema.type ?? 'value')]
}

function explain(error: ErrorObject): [message: string, hint?: string] {
  const what = nameOf(error)
  const params = error.params as Record<string, unknown>
  const limit = String(params['limit'])
  switch (error.keyword) {
    case 'additionalProperties': {
      const known = Object.keys((error.parentSchema as Schema | undefined)?.properties ?? {})
      return [`“${String(params['additionalProperty'])}” is not known here`, `known: ${known.join(', ')}`]
    }
    case 'required':
      return [`“${String(params['missingProperty'])}” is missing`]
    case 'enum':
      return [
        `${what} is ${show(error.data)}`,
        `one of: ${(params['allowedValues'] as unknown[]).map(String).join(', ')}`,
      ]
    case 'type':
      return [`${what} must be ${article(String(params['type']))}, not ${show(error.data)}`]
    case 'pattern':
      return [
        `${what} is ${show(error.data)}, which does not have the form it needs`,
        // A schema with a pattern says in words what it asks for.
        (error.parentSchema as Schema | undefined)?.description ?? `form: ${String(params['pattern'])}`,
      ]
    case 'maxLength':
      return [`${what} is longer than ${limit} characters`]
    case 'minLength':
      return [`${what} is empty`]
    case 'maxItems':
      return [`${what} has more than ${limit} items`]
    case 'minItems':
      return [limit === '1' ? `${what} is empty` : `${what} has fewer than ${limit} items`]
    case 'minimum':
      return [`${what} is ${show(error.data)}, and the least is ${limit}`]
    case 'maximum':
      return [`${what} is ${show(error.data)}, and the most is ${limit}`]
    default:
      return [`${what} ${error.message ?? 'is not valid'}`]
  }
}

function told(error: ErrorObject, message: string, hint?: string): Told {
  const extra = error.params['additionalProperty'] as string | undefined
  const path = error.instancePath.split('/').slice(1).map(unescapePointer)
  return {
    path: extra === undefined ? path : [...path, extra],
    pointer: error.instancePath || '/',
    message,
    ...(hint === undefined ? {} : { hint }),
  }
}

function nameOf({ instancePath }: ErrorObject): string {
  const at = instancePath.split('/').at(-1)
  return at && !/^\d+$/.test(at) ? `“${unescapePointer(at)}”` : 'this'
}

function show(value: unknown): string {
  const text = typeof value === 'string' ? `“${value}”` : asJson(value)
  return text.length > 60 ? `${text.slice(0, 57)}…` : text
}

/** An alias in its own anchor makes a value that contains itself. */
function asJson(value: unknown): string {
  try {
    return JSON.stringify(value) ?? 'nothing'
  } catch (error) {
    return error instanceof RangeError ? 'something very deep' : 'a value that contains itself'
  }
}

/** With “a” or “an”. */
export const article = (type: string) => (/^[aeio]/.test(type) ? `an ${type}` : `a ${type}`)

const unescapePointer = (part: string) => part.replaceAll('~1', '/').replaceAll('~0', '~')
