/** Registers the operations: reads and validates their input, calls their handlers, and responds. */
import { Ajv, type ValidateFunction } from 'ajv'
import addFormats from 'ajv-formats'
import type { Context, Hono } from 'hono'
import type { Operation } from '../../../contract/operation.ts'
import { operations, type OperationName } from '../../../contract/operations.ts'
import { explainErrors } from '../../../core/shapes/explain-errors.ts'
import type { Outcome } from '../../../core/shapes/outcome.ts'
import type { Handlers } from './handlers-of.ts'
import { REQUEST_PROBLEMS } from './problems.ts'
import { isObject, refuse, respond } from './responses.ts'

type AnyHandler = (input: { query: unknown; body: unknown }) => Promise<Outcome<unknown>>

export function addOperations(app: Hono, handlers: Handlers): void {
  const ajv = new Ajv({ allErrors: true, coerceTypes: false, strict: false, verbose: true })
  addFormats(ajv)
  for (const [key, operation] of Object.entries<Operation>(operations)) {
    const [method = 'GET', path = '/'] = key.split(' ')
    const { query: querySchema, body: bodySchema, upload = false, versioning } = operation
    const checkQuery = querySchema && ajv.compile(querySchema)
    const checkBody = bodySchema && !upload ? ajv.compile(bodySchema) : undefined
    const handler = handlers[key as OperationName] as AnyHandler
    app.on(method, path, async (context) => {
      const query = context.req.query()
      const sent = await bodyOf(context, bodySchema !== undefined, upload)
      const condition = context.req.header('if-match')
      const body = versioning === 'change' ? withVersion(sent, condition) : sent
      if (versioning === 'change' && isObject(body) && body['version'] === undefined)
        return refuse(context, 428, REQUEST_PROBLEMS['version-missing']())
      const wrong = explainInput(checkQuery, query, 'query') ?? explainInput(checkBody, body, 'body')
      if (wrong !== undefined) return refuse(context, 400, REQUEST_PROBLEMS['request-invalid'](wrong))
      const outcome = await handler({ query, body })
      return respond(context, outcome, { versioning, isConditional: condition !== undefined })
    })
  }
}

async function bodyOf(context: Context, hasBody: boolean, isUpload: boolean): Promise<unknown> {
  if (!hasBody) return undefined
  if (isUpload) return new Uint8Array(await context.req.arrayBuffer())
  return await context.req.json().catch(() => undefined)
}

/** Adds the version of `If-Match: "7"` to a body that has none. */
function withVersion(body: unknown, condition: string | undefined): unknown {
  const version = /^"(\d{1,9})"$/.exec(condition ?? '')?.[1]
  return isObject(body) && body['version'] === undefined && version !== undefined
    ? { ...body, version: Number(version) }
    : body
}

function explainInput(check: ValidateFunction | undefined, value: unknown, what: string): string | undefined {
  if (!check || check(value)) return undefined
  return explainErrors(check.errors ?? [])
    .map(({ pointer, message }) => `${what}${pointer === '/' ? '' : pointer}: ${message}`)
    .join(' ')
}
