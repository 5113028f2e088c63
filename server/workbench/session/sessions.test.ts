// Signing in and out: a session is a cookie and a secret, and neither is worth anything alone.
import { afterAll, afterEach, beforeAll, describe, expect, it, vi } from 'vitest'
import type { SignedInBrowser } from '../../../contract/session.ts'
import { HOST, KEY, testWorkbench, type TestWorkbench } from '../../testing/workbench.ts'

let test: TestWorkbench
beforeAll(async () => (test = await testWorkbench()))
afterAll(() => test.close())
// What is counted within a minute belongs to one test.
afterEach(() => {
  vi.setSystemTime(Date.now() + 61_000)
})
beforeAll(() => vi.useFakeTimers({ toFake: ['Date'] }))
afterAll(() => vi.useRealTimers())

const ask = (path: string, init: RequestInit = {}) =>
  test.app.request(`http://${HOST}${path}`, {
    ...init,
    headers: { host: HOST, ...(init.headers as Record<string, string>) },
  })
const tryKey = (key: string) =>
  ask('/api/sign-in', {
    method: 'POST',
    body: JSON.stringify({ key }),
    headers: { 'user-agent': 'Tester/1.0' },
  })

interface Held {
  cookie: string
  secret: string
}
async function signIn(): Promise<Held> {
  const response = await tryKey(KEY)
  expect(response.status).toBe(200)
  const [cookie = ''] = (response.headers.get('set-cookie') ?? '').split(';')
  return { cookie, secret: ((await response.json()) as { secret: string }).secret }
}
const status = async ({ cookie, secret }: Partial<Held>, path = '/api/session') =>
  (
    await ask(path, {
      headers: { ...(cookie ? { cookie } : {}), ...(secret ? { 'x-workbench-secret': secret } : {}) },
    })
  ).status

describe('a session', () => {
  it('is a cookie that scripts and other sites cannot use, with a secret for this origin’s script', async () => {
    const response = await tryKey(KEY)
    const cookie = response.headers.get('set-cookie') ?? ''
    expect(cookie).toMatch(/HttpOnly/)
    expect(cookie).toMatch(/SameSite=Strict/)
    const { secret } = (await response.json()) as { secret: string }
    expect(secret).toMatch(/^[\w-]{43}$/)
    expect(cookie).not.toContain(secret)
    expect(cookie).not.toContain(KEY)
  })
  it('needs both: other programs on this machine receive the cookie, too', async () => {
    const [one, other] = [await signIn(), await signIn()]
    expect(await status(one)).toBe(200)
    expect(await status({ cookie: one.cookie })).toBe(401)
    expect(await status({ secret: one.secret })).toBe(401)
    expect(await status({ cookie: one.cookie, secret: other.secret })).toBe(401)
    expect(await status({ cookie: `${one.cookie}x`, secret: one.secret })).toBe(401)
    for (const path of ['/api/traffic/stream', '/api/tags/export.csv', '/api/posts'])
      expect(await status({ cookie: one.cookie }, path), path).toBe(401)
  })
  it('is different each time, and stored as hashes', async () => {
    const [one, other] = [await signIn(), await signIn()]
    expect(one.cookie).not.toBe(other.cookie)
    const rows = JSON.stringify(await test.database.query('SELECT * FROM workbench_session'))
    for (const { cookie, secret } of [one, other]) {
      expect(rows).not.toContain(cookie.replace('esquina=', ''))
      expect(rows).not.toContain(secret)
    }
  })
  it('is ended by signing out, and only that one', async () => {
    const [one, other] = [await signIn(), await signIn()]
    expect(await status(one)).toBe(200)
    const out = await ask('/api/sign-out', {
      method: 'POST',
      headers: { cookie: one.cookie, 'x-workbench-secret': one.secret },
    })
    expect(out.headers.get('set-cookie')).toMatch(/^esquina=;.*Max-Age=0/)
    expect([await status(one), await status(other)]).toEqual([401, 200])
  })
  it('is not ended by somebody who has only the cookie', async () => {
    const one = await signIn()
    await ask('/api/sign-out', { method: 'POST', headers: { cookie: one.cookie } })
    expect(await status(one)).toBe(200)
  })
  it('is listed, and can be ended from another browser', async () => {
    await test.database.query('DELETE FROM workbench_session')
    const one = await signIn()
    expect(await status(one)).toBe(200)
    const { answer } = await test.api<SignedInBrowser[]>('GET', '/api/sessions')
    expect(answer).toMatchObject([{ browser: 'Tester/1.0' }])
    const { answer: ended } = await test.api('DELETE', `/api/sessions?id=${answer[0]?.id ?? ''}`)
    expect(ended).toEqual({ ended: true })
    expect(await status(one)).toBe(401)
  })
  it('ends after 90 days without a request', async () => {
    const one = await signIn()
    vi.setSystemTime(Date.now() + 91 * 86_400_000)
    expect(await status(one)).toBe(401)
    await signIn()
    const rows = await test.database.query<{ n: number }[]>(
      'SELECT count(*)::int AS n FROM workbench_session',
    )
    expect(rows[0]?.n).toBe(1)
  })
})

describe('wrong keys', () => {
  it('are answered with 429 after ten within a minute, and the right one is accepted all the time', async () => {
    const answers: number[] = []
    for (let time = 0; time < 12; time++) answers.push((await tryKey('wrong')).status)
    expect(answers).toEqual([...Array<number>(10).fill(401), 429, 429])
    const limited = await tryKey('wrong')
    expect(Number(limited.headers.get('retry-after'))).toBeGreaterThan(0)
    const bearer = (key: string) => ask('/api/session', { headers: { authorization: `Bearer ${key}` } })
    expect((await bearer('wrong')).status).toBe(429)
    expect((await bearer(KEY)).status).toBe(200)
    expect(await status(await signIn())).toBe(200)
  })
  it('as cookies, too', async () => {
    const answers: number[] = []
    for (let time = 0; time < 11; time++)
      answers.push(await status({ cookie: 'esquina=forged', secret: 'forged' }))
    expect(answers.slice(-2)).toEqual([401, 429])
    // Neither nothing nor a cookie without a secret is an attempt.
    expect([await status({}), await status({ cookie: 'esquina=old' })]).toEqual([401, 401])
  })
})
