/** The workbench's API, typed by its contract: `call('GET /api/walk', { query: { path: '/' } })`. */
import type { AnswerOf, BodyOf, OperationName, ProblemDetails, QueryOf } from '../../contract/operations.ts'

type Part<Key extends string, T> = T extends undefined ? { [K in Key]?: undefined } : { [K in Key]: T }
type Input<Name extends OperationName> = Part<'query', QueryOf<Name>> & Part<'body', BodyOf<Name>>

/** What the API answered instead of a result: problem details, or a server that is not there. */
export class ApiProblem extends Error {
  constructor(readonly details: ProblemDetails) {
    super(details.title)
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
      status: 0,
      title: 'Esquina does not answer',
      detail: 'Is it still running where you started it?',
    })
  }
  const answer: unknown = await response.json().catch(() => undefined)
  if (response.ok) return answer
  const details = (typeof answer === 'object' && answer !== null ? answer : {}) as Partial<ProblemDetails>
  throw new ApiProblem({
    type: 'about:blank',
    title: response.statusText || 'The request failed',
    ...details,
    status: response.status,
  })
}
