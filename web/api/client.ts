/** The client of the workbench's API, typed by its contract: `call('GET /api/walk', { query: { path: '/' } })`. */
import type { AnswerOf, BodyOf, OperationName, Operations, QueryOf } from '../../contract/operations.ts'
import type { ProblemDetails } from '../../contract/problem.ts'

type Part<Key extends string, T> = T extends undefined ? { [K in Key]?: undefined } : { [K in Key]: T }
export type Input<Name extends OperationName> = Part<'query', QueryOf<Name>> & Part<'body', BodyOf<Name>>

/** Operations that change nothing: every GET, and others that the contract declares as read-only. */
export type ReadName = {
  [Name in OperationName]: Name extends `GET ${string}`
    ? Name
    : Operations[Name] extends { readOnly: true }
      ? Name
      : never
}[OperationName]
export type WriteName = Exclude<OperationName, ReadName>

/** A response that is not a result: problem details, or no response at all. */
export class ApiProblem extends Error {
  constructor(readonly details: ProblemDetails) {
    super(details.title)
  }

  /** Whether the change is based on an outdated version. */
  get isConflict(): boolean {
    return this.details.status === 409
  }

  get isNotFound(): boolean {
    return this.details.status === 404
  }
}

export async function call<Name extends OperationName>(
  name: Name,
  input: Input<Name>,
): Promise<AnswerOf<Name>> {
  const [method = 'GET', path = '/'] = name.split(' ')
  const query = new URLSearchParams(
    Object.entries((input.query ?? {}) as Record<string, string | undefined>).flatMap(([key, value]) =>
      value === undefined ? [] : [[key, value]],
    ),
  )
  const address = query.size === 0 ? path : `${path}?${query.toString()}`
  return (await send(method, address, input.body)) as AnswerOf<Name>
}

export async function send(method: string, address: string, body?: unknown): Promise<unknown> {
  let response: Response
  try {
    response = await fetch(address, {
      method,
      ...(body === undefined
        ? {}
        : body instanceof Uint8Array
          ? { body: body as BodyInit, headers: { 'content-type': 'application/octet-stream' } }
          : { body: JSON.stringify(body), headers: { 'content-type': 'application/json' } }),
    })
  } catch {
    throw new ApiProblem({
      type: 'about:blank',
      code: 'workbench-unavailable',
      status: 0,
      title: 'Esquina does not respond.',
      detail: 'Check that it is still running.',
    })
  }
  const answer: unknown = await response.json().catch(() => undefined)
  if (response.ok) return answer
  const details = (typeof answer === 'object' && answer !== null ? answer : {}) as Partial<ProblemDetails>
  throw new ApiProblem({
    type: 'about:blank',
    code: 'request-failed',
    title: response.statusText || 'The request failed.',
    ...details,
    status: response.status,
  })
}
