// The start command as a user runs it: real processes, real ports, signals and crashes.
import { spawn, type ChildProcess } from 'node:child_process'
import { chmodSync, existsSync, mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { createServer } from 'node:net'
import { request } from 'node:http'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { connect } from 'node:net'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { freePort } from './store/cluster.ts'

const root = join(import.meta.dirname, '..')
const data = mkdtempSync(join(tmpdir(), 'esquina-start-'))
chmodSync(data, 0o755)
let ports: { port: number; blogPort: number }
const children = new Set<ChildProcess>()

interface Started {
  child: ChildProcess
  output: () => string
  ended: Promise<number | null>
}

function launch(
  environment: Record<string, string> = {},
  words: string[] = [],
  [command, ...first]: [string, ...string[]] = [process.execPath, 'scripts/start.mjs'],
): Started {
  const child = spawn(command, [...first, ...words], {
    cwd: root,
    env: {
      ...process.env,
      ESQUINA_DATA: data,
      ESQUINA_PORT: String(ports.port),
      ESQUINA_BLOG_PORT: String(ports.blogPort),
      ESQUINA_KEY: 'a key',
      ...environment,
    },
  })
  children.add(child)
  let text = ''
  child.stdout.on('data', (chunk: Buffer) => (text += chunk.toString()))
  child.stderr.on('data', (chunk: Buffer) => (text += chunk.toString()))
  const ended = new Promise<number | null>((done) => child.on('close', done))
  return { child, output: () => text, ended }
}

async function started(...how: Parameters<typeof launch>): Promise<Started> {
  const one = launch(...how)
  for (let attempt = 0; attempt < 1_200; attempt++) {
    if (one.output().includes('Started in')) return one
    if (one.child.exitCode !== null) break
    await new Promise((done) => setTimeout(done, 100))
  }
  throw new Error(`it did not start:\n${one.output()}`)
}

const get = (path: string, port = ports.blogPort) =>
  fetch(`http://127.0.0.1:${port}${path}`, { redirect: 'manual' })
const isListening = (port: number) =>
  new Promise<boolean>((done) => {
    const socket = connect(port, '127.0.0.1')
    socket.on('connect', () => (socket.destroy(), done(true)))
    socket.on('error', () => done(false))
  })
/** Sends bytes as they are and returns the first line of the answer. */
const raw = (text: string) =>
  new Promise<string>((done) => {
    let answer = ''
    const socket = connect(ports.blogPort, '127.0.0.1', () => socket.write(text))
    socket.on('data', (chunk: Buffer) => {
      answer += chunk.toString()
      if (answer.includes('\r\n')) socket.destroy()
    })
    socket.on('close', () => done(answer.split('\r\n')[0] ?? ''))
    socket.on('error', () => done(answer.split('\r\n')[0] ?? 'error'))
    setTimeout(() => socket.destroy(), 20_000)
  })

async function eventually(holds: () => boolean): Promise<void> {
  for (let attempt = 0; attempt < 800 && !holds(); attempt++)
    await new Promise((done) => setTimeout(done, 50))
  expect(holds()).toBe(true)
}

async function expectNothingLeft(): Promise<void> {
  expect(existsSync(join(data, 'postgres/data/postmaster.pid'))).toBe(false)
  expect(existsSync(join(data, 'lock'))).toBe(false)
  expect([await isListening(ports.port), await isListening(ports.blogPort)]).toEqual([false, false])
}

beforeAll(async () => {
  ports = { port: await freePort(), blogPort: await freePort() }
})
afterAll(async () => {
  for (const child of children) child.kill('SIGTERM')
  await new Promise((done) => setTimeout(done, 1_500))
  rmSync(data, { recursive: true, force: true })
})

describe('npm start', () => {
  it(
    'brings everything up, survives kill -9 with nothing lost, and stops everything on SIGTERM',
    { timeout: 400_000 },
    async () => {
      const first = await started()
      expect(first.output()).toContain('Imported 44 documents, 48 posts, 8 pages')
      expect(first.output()).toContain(`http://127.0.0.1:${ports.port}/sign-in?key=a%20key`)
      for (const port of [ports.port, ports.blogPort])
        expect(await (await get('/healthz', port)).json()).toEqual({ status: 'ok' })
      expect((await get('/posts?page=2')).status).toBe(200)

      const second = launch()
      expect(await second.ended).toBe(1)
      expect(second.output()).toContain('Esquina already runs on')

      const form = await get('/posts/moth')
      const token = /name="token" value="([^"]+)"/.exec(await form.text())?.[1] ?? ''
      const cookie = (form.headers.getSetCookie()[0] ?? '').split(';')[0] ?? ''
      const sent = await fetch(`http://127.0.0.1:${ports.blogPort}/posts/moth/comments`, {
        method: 'POST',
        redirect: 'manual',
        headers: {
          origin: `http://127.0.0.1:${ports.blogPort}`,
          'content-type': 'application/x-www-form-urlencoded',
          cookie,
        },
        body: new URLSearchParams({ name: 'Vera', text: 'Before the crash', token }),
      })
      expect(sent.status).toBe(303)
      // From now on, the cookie says that the browser has commented.
      const commented = sent.headers.get('set-cookie')?.split(';')[0] ?? ''
      const own = async () => {
        const headers = { cookie: commented }
        return await (await fetch(`http://127.0.0.1:${ports.blogPort}/posts/moth`, { headers })).text()
      }
      const postmaster = () =>
        Number(readFileSync(join(data, 'postgres/data/postmaster.pid'), 'utf8').split('\n')[0])
      // The database dies, and is started again.
      process.kill(postmaster(), 'SIGKILL')
      const died = performance.now()
      while (!(await own()).includes('Before the crash')) {
        expect(performance.now() - died).toBeLessThan(60_000)
        await new Promise((done) => setTimeout(done, 100))
      }
      // Both die.
      first.child.kill('SIGKILL')
      process.kill(postmaster(), 'SIGKILL')
      await first.ended

      const third = await started()
      expect(third.output()).not.toContain('Imported')
      expect(await own()).toContain('Before the crash')

      // Malformed addresses and requests: each is answered below 500.
      expect(await raw(`GET /${'a'.repeat(9_000)} HTTP/1.1\r\nHost: x\r\n\r\n`)).toContain(' 414 ')
      expect(await raw(`GET /${'a'.repeat(70_000)} HTTP/1.1\r\nHost: x\r\n\r\n`)).toContain(' 414 ')
      expect(await raw(`GET / HTTP/1.1\r\nHost: x\r\nX: ${'a'.repeat(70_000)}\r\n\r\n`)).toContain(' 431 ')
      expect(await raw('GET /%E0%A4%A HTTP/1.1\r\nHost: x\r\n\r\n')).toContain(' 400 ')
      // A browser would take an answer on an unused connection for that of its next request.
      const [unused, half] = await Promise.all([raw(''), raw('GET /posts HTTP/1.1\r\nHo')])
      expect(unused).toBe('')
      expect(half).toContain(' 408 ')
      // HTTP/1.0 has no Host; two are a bad request (RFC 9112 §3.2).
      expect(await raw('GET /posts HTTP/1.0\r\n\r\n')).toContain(' 200 ')
      expect(await raw('GET /posts HTTP/1.1\r\nHost: x\r\nHost: y\r\n\r\n')).toContain(' 400 ')
      for (const line of [
        'GET http://evil.example/ HTTP/1.1',
        'GET * HTTP/1.1',
        'OPTIONS * HTTP/1.1',
        'NONSENSE / HTTP/1.1',
        'GET / HTTP/9.9',
        'GET /\u00ff\u00fe HTTP/1.1',
        'GET //// HTTP/1.1',
        'CONNECT x:1 HTTP/1.1',
      ]) {
        expect(await raw(`${line}\r\nHost: x\r\n\r\n`), line).toMatch(/^HTTP\/1\.1 [2-4]\d\d |^$/)
      }
      expect(await raw('GET / HTTP/1.1\r\n\r\n')).toMatch(/^HTTP\/1\.1 [2-4]/)
      expect(await raw('GET / HTTP/1.1\r\nHost: a b c\r\n\r\n')).toMatch(/^HTTP\/1\.1 [2-4]/)
      const wrongHost = await new Promise<number | undefined>((done) =>
        request({ port: ports.port, path: '/api/session', headers: { host: 'evil.example' } }, (response) =>
          done(response.statusCode),
        ).end(),
      )
      expect(wrongHost).toBe(421)

      third.child.kill('SIGTERM')
      expect(await third.ended).toBe(0)
      await expectNothingLeft()
      expect(readFileSync(join(data, 'esquina.log'), 'utf8')).not.toContain('a key')

      // The same through npm and its shell, which must forward the signal.
      const throughNpm = await started({}, ['--', '--blank'], ['npm', 'start'])
      expect(throughNpm.output()).toContain('so --blank has no effect')
      throughNpm.child.kill('SIGTERM')
      await throughNpm.ended
      await eventually(() => !existsSync(join(data, 'lock')))
      await expectNothingLeft()

      // During the start, when PostgreSQL is running but the listeners are not.
      const interrupted = launch()
      await eventually(() => existsSync(join(data, 'postgres/data/postmaster.pid')))
      interrupted.child.kill('SIGINT')
      expect(await interrupted.ended).toBe(0)
      await expectNothingLeft()
    },
  )

  it(
    'takes the next free port when one is busy, and starts blank with a database of one’s own',
    { timeout: 240_000 },
    async () => {
      const { newDatabase } = await import('./testing/database.ts')
      const blocker = createServer()
      await new Promise<void>((done) => blocker.listen(ports.port, '127.0.0.1', done))
      const other = mkdtempSync(join(tmpdir(), 'esquina-blank-'))
      const one = await started({ DATABASE_URL: await newDatabase('empty'), ESQUINA_DATA: other }, [
        '--blank',
      ])
      expect(one.output()).toContain(`Port ${ports.port} is in use. Using`)
      expect(await (await get('/')).text()).toContain('A new blog')
      expect((await get('/anything')).status).toBe(404)
      expect(existsSync(join(other, 'postgres'))).toBe(false)
      one.child.kill('SIGINT')
      expect(await one.ended).toBe(0)
      blocker.close()
      rmSync(other, { recursive: true, force: true })
    },
  )

  it.runIf(process.getuid?.() === 0)(
    'as root below a closed folder, keeps the cluster where PostgreSQL’s own user can reach it',
    { timeout: 240_000 },
    async () => {
      const closed = mkdtempSync(join(tmpdir(), 'esquina-closed-'))
      const one = await started({ ESQUINA_DATA: join(closed, 'data') })
      const elsewhere = /its files are in (\/var\/lib\/esquina\/[0-9a-f]{12})\./.exec(one.output())?.[1] ?? ''
      expect(existsSync(join(elsewhere, 'data/PG_VERSION'))).toBe(true)
      expect(existsSync(join(closed, 'data/postgres'))).toBe(false)
      one.child.kill('SIGTERM')
      expect(await one.ended).toBe(0)
      rmSync(elsewhere, { recursive: true })
      rmSync(closed, { recursive: true })
    },
  )

  it.each([
    [{ ESQUINA_PORT: 'eighty' }, [], 'ESQUINA_PORT is “eighty”, which is not a port'],
    [{}, ['--blnak'], 'Unknown argument “--blnak”. Known: --blank'],
  ])('%j %j: a single line says what is wrong', async (environment, words, line) => {
    const one = launch(environment, words)
    expect(await one.ended).toBe(1)
    expect(one.output()).toContain(line)
  })
})
