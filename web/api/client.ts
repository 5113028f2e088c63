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

  /** Whether the session has ended. With too many requests of one that has, the workbench answers differently. */
  get needsSignIn(): boolean {
    return this.details.status === 401 || this.details.code === 'sign-in-too-often'
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

/** The secret of this browser's session. Other origins, and other programs on this machine, cannot read it. */
const STORED = 'esquina session'
export const keepSecret = (secret: string): void => localStorage.setItem(STORED, secret)
export const forgetSecret = (): void => localStorage.removeItem(STORED)

/** Fetches from the API with the session's secret. */
export const fetchSigned = (address: string | URL, init: RequestInit = {}): Promise<Response> => {
  const secret = localStorage.getItem(STORED)
  if (secret === null) return fetch(address, init)
  const headers = new Headers(init.headers)
  headers.set('x-workbench-secret', secret)
  return fetch(address, { ...init, headers })
}

/** Saves a file that the API answers with. */
export async function download(address: string): Promise<void> {
  const response = await fetchSigned(address)
  if (!response.ok) throw new ApiProblem(await problemOf(response))
  const link = document.createElement('a')
  link.href = URL.createObjectURL(await response.blob())
  link.download = /filename="([^"]*)"/.exec(response.headers.get('content-disposition') ?? '')?.[1] ?? ''
  link.click()
  setTimeout(() => URL.revokeObjectURL(link.href), 60_000)
}

async function problemOf(response: Response): Promise<ProblemDetails> {
  const answer: unknown = await response.json().catch(() => undefined)
  const details = (typeof answer === 'object' && answer !== null ? answer : {}) as Partial<ProblemDetails>
  return {
    type: 'about:blank',
    code: 'request-failed',
    title: response.statusText || 'The request failed.',
    ...details,
    status: response.status,
  }
}

export async function send(method: string, address: string, body?: unknown): Promise<unknown> {
  let response: Response
  try {
    response = await fetchSigned(address, {
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
  if (response.ok) return (await response.json().catch(() => undefined)) as unknown
  throw new ApiProblem(await problemOf(response))
}
