// A long computation pauses after each slice, so that what else runs on the event loop waits for one slice at most.
import { expect, it } from 'vitest'
import { inSlices, toItsEnd, type InSteps } from './steps.ts'

/** A computation of steps that take a time each, in milliseconds of a clock that only they advance. */
function computation(times: readonly number[]) {
  let now = 0
  function* steps(): InSteps<number> {
    let sum = 0
    for (const time of times) {
      now += time
      sum += time
      yield
    }
    return sum
  }
  return { steps: steps(), clock: () => now }
}

it('pauses as soon as a slice is over, for as long as it took', async () => {
  const paused: [at: number, milliseconds: number][] = []
  const { steps, clock } = computation([0.5, 0.5, 0.5, 0.5, 0.5, 1, 9, 1, 1, 1])
  const sum = await inSlices(steps, (taken) => Promise.resolve(paused.push([clock(), taken])), clock)
  expect(paused).toEqual([
    [2, 2],
    [12.5, 10.5],
    [14.5, 2],
  ])
  expect(sum).toBe(15.5)
})

it('does not continue before others have run', async () => {
  const { steps, clock } = computation([5, 5])
  let goOn: (() => void) | undefined
  const result = inSlices(steps, () => new Promise<void>((done) => (goOn = done)), clock)
  await Promise.resolve()
  expect(clock()).toBe(5)
  goOn?.()
  await Promise.resolve()
  await Promise.resolve()
  expect(clock()).toBe(10)
  goOn?.()
  expect(await result).toBe(10)
})

it('returns the same result at once', () => {
  expect(toItsEnd(computation([1, 2, 3]).steps)).toBe(6)
})
