/** The one place that turns outcomes into HTTP: statuses, problem details (RFC 9457) and entity tags. */
import type { Context } from 'hono'
import type { Versioning } from '../../../contract/operation.ts'
import type { ProblemDetails } from '../../../contract/problem.ts'
import type { Worded } from '../../../core/shapes/catalogue.ts'
import type { Failure, Outcome } from '../../../core/shapes/outcome.ts'

export interface Asked {
  versioning: Versioning | undefined
  /** Whether the version was sent as If-Match. */
  isConditional: boolean
}

export function respond(
  context: Context,
  outcome: Outcome<unknown>,
  { versioning, isConditional }: Asked,
): Response {
  if (!outcome.ok) return problemResponse(context, detailsOf(outcome, isConditional))
  const { value } = outcome
  // RFC 9110 §8.8.3: the version is a strong validator.
  if (versioning !== undefined && isObject(value) && 'version' in value)
    context.header('etag', `"${String(value['version'])}"`)
  return context.json(value as object)
}

/** Responds with a problem of the request itself. */
export const refuse = (context: Context, status: number, { code, message, hint }: Worded): Response =>
  problemResponse(context, {
    code,
    title: message,
    status,
    ...(hint === undefined ? {} : { detail: hint }),
  })

function detailsOf(failure: Failure, isConditional: boolean): Omit<ProblemDetails, 'type'> {
  const { problems, current } = failure
  const [first] = problems
  const isSingle = problems.length === 1
  return {
    code: first?.code ?? 'internal-error',
    title: isSingle ? (first?.message ?? '') : `There are ${problems.length} problems.`,
    status: statusOf(failure.why, isConditional),
    ...(isSingle && first?.hint !== undefined ? { detail: first.hint } : {}),
    problems: problems.map((one) => ({ ...one })),
    ...current,
  }
}

function statusOf(why: Failure['why'], isConditional: boolean): number {
  switch (why) {
    case 'problems':
      return 422
    case 'unknown':
      return 404
    case 'blocked':
      return 409
    case 'conflict':
      // RFC 9110 §13.1.1: a precondition that is false is 412. Without one, the conflict is 409.
      return isConditional ? 412 : 409
  }
}

const problemResponse = (context: Context, details: Omit<ProblemDetails, 'type'>): Response =>
  context.body(JSON.stringify({ type: 'about:blank', ...details }), details.status as 400, {
    'content-type': 'application/problem+json',
  })

export const isObject = (value: unknown): value is Record<string, unknown> =>
  typeof value === 'object' && value !== null && !Array.isArray(value)
