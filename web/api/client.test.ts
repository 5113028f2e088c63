// The client of the workbench's API: its requests, and how it reads every kind of response.
import { afterEach, describe, expect, it, vi } from 'vitest'
import { ApiProblem, call, forgetSecret, keepSecret, send } from './client.ts'

const asked: [string, RequestInit][] = []
const stored = new Map<string, string>()
function server(answer: Response | Error) {
  asked.length = 0
  vi.stubGlobal('localStorage', {
    getItem: (name: string) => stored.get(name) ?? null,
    setItem: (name: string, value: string) => stored.set(name, value),
    removeItem: (name: string) => stored.delete(name),
  })
  vi.stubGlobal('fetch', (address: string, init: RequestInit) => {
    asked.push([address, init])
    return answer instanceof Error ? Promise.reject(answer) : Promise.resolve(answer)
  })
}
afterEach(() => vi.unstubAllGlobals())
const problem = async (work: Promise<unknown>) => {
  const error = await work.then(
    () => undefined,
    (thrown: unknown) => thrown,
  )
  if (!(error instanceof ApiProblem)) throw new Error('The request did not fail.')
  return error.details
}

describe('a request', () => {
  it('carries the secret of the session, once there is one', async () => {
    server(Response.json({}))
    keepSecret('s3cret')
    await send('GET', '/api/session')
    expect(new Headers(asked[0]?.[1].headers).get('x-workbench-secret')).toBe('s3cret')
    forgetSecret()
    server(Response.json({}))
    await send('GET', '/api/session')
    expect(new Headers(asked[0]?.[1].headers).get('x-workbench-secret')).toBeNull()
  })
  it('has its parameters in the address, percent-encoded, without absent ones', async () => {
    server(Response.json({ path: 'x' }))
    await call('GET /api/document', { query: { path: 'templates/a&b=c d.liquid' } })
    expect(asked).toEqual([['/api/document?path=templates%2Fa%26b%3Dc+d.liquid', { method: 'GET' }]])
    await call('GET /api/pages', {}).catch(() => undefined)
    expect(asked[1]?.[0]).toBe('/api/pages')
  })
  it('sends a body as JSON, and bytes unchanged', async () => {
    server(Response.json({}))
    await send('PUT', '/api/x', { a: 'é' })
    expect(asked[0]?.[1]).toEqual({
      method: 'PUT',
      body: '{"a":"é"}',
      headers: { 'content-type': 'application/json' },
    })
    server(Response.json({}))
    const bytes = new Uint8Array([0, 255])
    await send('POST', '/api/x', bytes)
    expect(asked[0]?.[1]).toEqual({
      method: 'POST',
      body: bytes,
      headers: { 'content-type': 'application/octet-stream' },
    })
  })
})

describe('a response', () => {
  it('is returned if it is successful', async () => {
    server(Response.json([1, 2]))
    expect(await send('GET', '/api/x')).toEqual([1, 2])
  })
  it('with problem details (RFC 9457) is returned completely', async () => {
    const details = {
      type: 'about:blank',
      code: 'document-invalid',
      title: 'The document is not valid.',
      status: 422,
      problems: [{ code: 'x', file: 'a', message: 'b' }],
    }
    server(Response.json(details, { status: 422 }))
    expect(await problem(send('GET', '/api/x'))).toEqual(details)
  })
  it.each<[string, Response, object]>([
    [
      'that is a page of a proxy',
      new Response('<h1>Bad gateway</h1>', { status: 502, statusText: 'Bad Gateway' }),
      { status: 502, code: 'request-failed', title: 'Bad Gateway' },
    ],
    [
      'that is empty',
      new Response(null, { status: 500 }),
      { status: 500, code: 'request-failed', title: 'The request failed.' },
    ],
    ['that is other JSON', Response.json(7, { status: 404 }), { status: 404 }],
    [
      'whose text has another status',
      Response.json({ status: 200, title: 'Fine' }, { status: 403 }),
      { status: 403, title: 'Fine' },
    ],
  ])('%s is a problem', async (_, response, expected) => {
    server(response)
    expect(await problem(send('GET', '/api/x'))).toMatchObject({ type: 'about:blank', ...expected })
  })
  it('that never arrives is a problem with a hint', async () => {
    server(new TypeError('Failed to fetch'))
    expect(await problem(send('GET', '/api/x'))).toEqual({
      type: 'about:blank',
      code: 'workbench-unavailable',
      status: 0,
      title: 'Esquina does not respond.',
      detail: 'Check that it is still running.',
    })
  })
})
