import { existsSync } from 'node:fs'
import { Worker } from 'node:worker_threads'
import { expect, it } from 'vitest'
import { threadTime } from './thread-time.ts'

it.runIf(existsSync('/proc/thread-self/schedstat'))('other threads of the process do not count', async () => {
  const worker = new Worker('for (;;);', { eval: true })
  await new Promise((done) => worker.once('online', done))
  const before = { own: threadTime(), all: process.cpuUsage() }
  await new Promise((done) => setTimeout(done, 400))
  const { user, system } = process.cpuUsage(before.all)
  expect(threadTime() - before.own).toBeLessThan((user + system) / 1_000 / 2)
  const spun = threadTime()
  for (const end = performance.now() + 50; performance.now() < end;);
  expect(threadTime()).toBeGreaterThan(spun)
  await worker.terminate()
})
