import { writeFileSync, mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { PATIENCE, Thread } from './thread.ts'
import { ownClock, timeOn } from './thread-clock.ts'

const folder = mkdtempSync(join(tmpdir(), 'esquina-deadline-'))
const clock = join(folder, 'schedstat')
const used = (milliseconds: number) => writeFileSync(clock, `${milliseconds * 1_000_000} 0 1\n`)

/** Answers a question after as many milliseconds, on a clock that the test sets. */
const slow = new Thread<number, number>(
  new URL(
    `data:text/javascript,${encodeURIComponent(
      `import { parentPort } from 'node:worker_threads'; parentPort.postMessage({ ready: ${JSON.stringify(clock)} }); parentPort.on('message', ({ question }) => setTimeout(() => parentPort.postMessage({ value: question }), question))`,
    )}`,
  ),
)
beforeAll(() => used(50))
afterAll(async () => {
  await slow.stop()
  rmSync(folder, { recursive: true })
})

describe('a question that takes longer than it may', () => {
  it('goes on while its thread waits for the processor or the database', async () => {
    expect(await slow.ask(700, { longest: 400, patience: PATIENCE })).toBe(700)
  })

  it('is stopped at once if it has used the processor', async () => {
    // Then the thread is ready, and the time of the next question begins at once.
    await slow.ask(0)
    const asked = slow.ask(60_000, { longest: 400, patience: PATIENCE })
    setTimeout(() => used(50 + 300), 200)
    await expect(asked).rejects.toThrow('It took longer than 0.4 s.')
    used(50)
  })

  it('is stopped after several times as long in any case', async () => {
    const began = performance.now()
    await expect(slow.ask(60_000, { longest: 300, patience: PATIENCE })).rejects.toThrow(
      'It took longer than 1 s.',
    )
    expect(performance.now() - began).toBeGreaterThan(300 * PATIENCE - 10)
  })

  it('is stopped at once without patience, and where the system does not tell the time of threads', async () => {
    await expect(slow.ask(60_000, { longest: 200 })).rejects.toThrow('It took longer than 0.2 s.')
    rmSync(clock)
    await expect(slow.ask(60_000, { longest: 200, patience: PATIENCE })).rejects.toThrow('longer than 0.2 s.')
    used(50)
  })
})

describe.runIf(ownClock() !== null)('the clock of a thread', () => {
  it('counts while the thread computes, and not while it waits', async () => {
    const own = ownClock() ?? ''
    const before = timeOn(own) ?? NaN
    await new Promise((done) => setTimeout(done, 300))
    const waited = timeOn(own) ?? NaN
    const end = performance.now() + 300
    while (performance.now() < end) Math.sqrt(end)
    const computed = timeOn(own) ?? NaN
    expect(waited - before).toBeLessThan(150)
    expect(computed - waited).toBeGreaterThan(waited - before)
  })
})
