// Answers of another program, which arrive while this process is busy, or too late.
import { Worker } from 'node:worker_threads'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { inTime } from './in-time.ts'

/** Another thread: it answers while this one is busy. */
const PROGRAM = `
  const { createServer } = require('node:http')
  const { parentPort } = require('node:worker_threads')
  const server = createServer((request, response) => {
    setTimeout(() => { response.write('a'); setImmediate(() => response.end('b')) }, Number(request.url.slice(1)))
  })
  server.listen(0, '127.0.0.1', () => parentPort.postMessage(server.address().port))
`
let worker: Worker
let origin: string
beforeAll(async () => {
  worker = new Worker(PROGRAM, { eval: true })
  const port = await new Promise<number>((done) => worker.once('message', done))
  origin = `http://127.0.0.1:${port}`
  // The first request of a process loads much.
  await (await fetch(`${origin}/0`)).text()
})
afterAll(() => worker.terminate())

function busyFor(milliseconds: number): void {
  const end = performance.now() + milliseconds
  while (performance.now() < end);
}
const ask = (wait: number) => (signal: AbortSignal) =>
  fetch(`${origin}/${wait}`, { signal }).then((one) => one.text())

describe('an answer', () => {
  it('that arrives while this process is busy is taken', async () => {
    const answer = inTime(ask(50), 200)
    // Once the request was sent.
    await new Promise((done) => setTimeout(done, 25))
    // After sockets were read, so that timers come first when this process goes on.
    await new Promise((done) => setImmediate(done))
    busyFor(600)
    expect(await answer).toBe('ab')
  })
  it('that does not arrive in time is no longer waited for', async () => {
    let isAborted = false
    const asked = inTime((signal) => {
      signal.addEventListener('abort', () => (isAborted = true))
      return ask(60_000)(signal)
    }, 50)
    await expect(asked).rejects.toThrow('not answered within 50 ms')
    expect(isAborted).toBe(true)
  })
  it('that is an error is one', async () => {
    await expect(inTime(() => Promise.reject(new Error('refused')), 1_000)).rejects.toThrow('refused')
  })
})
