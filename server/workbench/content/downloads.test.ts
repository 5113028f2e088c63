// A download that fails halfway, over real HTTP: the file is incomplete, and the server keeps running.
import { serve, type ServerType } from '@hono/node-server'
import { Hono } from 'hono'
import type { AddressInfo } from 'node:net'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { download } from './downloads.ts'

async function* whole() {
  yield await Promise.resolve('a')
  yield new Uint8Array([98])
}
async function* broken() {
  yield await Promise.resolve('a')
  throw new Error('the database went away')
}

let server: ServerType
let origin = ''
beforeAll(async () => {
  const app = new Hono()
  app.get('/whole', () => download('x.csv', 'text/csv', whole()))
  app.get('/broken', () => download('x.csv', 'text/csv', broken()))
  await new Promise<void>((done) => {
    server = serve({ fetch: app.fetch, port: 0, hostname: '127.0.0.1' }, () => done())
  })
  origin = `http://127.0.0.1:${(server.address() as AddressInfo).port}`
})
afterAll(() => new Promise<void>((done) => server.close(() => done())))

it('a failed download is recognisably incomplete, and the server keeps running', async () => {
  await expect(fetch(`${origin}/broken`).then((response) => response.text())).rejects.toThrow()
  expect(await (await fetch(`${origin}/whole`)).text()).toBe('ab')
})
