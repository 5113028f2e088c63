// Snapshots of PostgreSQL (documentation, “Transaction ID and Snapshot Information Functions”): `10:20:10,14,15` means that
// transactions before 10 had ended, those from 20 on had not, and 10, 14 and 15 were in progress.
import fc from 'fast-check'
import { expect, it } from 'vitest'
import { includes, readSnapshot, sees, type Snapshot } from './snapshot.ts'

const read = (text: string): Snapshot => {
  const found = readSnapshot(text)
  if (!found) throw new Error(`“${text}” is not a snapshot.`)
  return found
}

it('reads the example in the documentation', () => {
  const snapshot = read('10:20:10,14,15')
  expect([9, 10, 11, 14, 16, 19, 20].map((one) => sees(snapshot, BigInt(one)))).toEqual([
    ...[true, false, true, false, true, true, false],
  ])
  expect(sees(read('5:5:'), 4n)).toBe(true)
  expect(sees(read('5:5:'), 5n)).toBe(false)
})

it('refuses invalid texts', () => {
  for (const text of ['', '1', '1:2', '1:2:x', '1:2:3,', '1:2:3 ', '-1:2:', `${'9'.repeat(30)}:1:`])
    expect(readSnapshot(text), text).toBeUndefined()
})

const MOST = 9
const snapshot = fc
  .tuple(
    fc.integer({ min: 1, max: MOST }),
    fc.integer({ min: 0, max: 4 }),
    fc.array(fc.nat(4), { maxLength: 3 }),
  )
  .map(([xmin, length, running]) => {
    const inside = [...new Set(running)].filter((one) => one < length).map((one) => one + xmin)
    return read(`${xmin}:${xmin + length}:${inside.join(',')}`)
  })
const everything = Array.from({ length: 3 * MOST }, (_, index) => BigInt(index))

it('a snapshot includes another one only if it sees every transaction that the other one sees', () => {
  let included = 0
  fc.assert(
    fc.property(snapshot, snapshot, (later, earlier) => {
      const isIncluded = includes(later, earlier)
      included += Number(isIncluded)
      const seesAll = everything.every((one) => !sees(earlier, one) || sees(later, one))
      // It may be false although nothing is missing, but it is true only if nothing is.
      if (isIncluded) expect(seesAll).toBe(true)
      if (seesAll && earlier.xmax <= later.xmax) expect(isIncluded).toBe(true)
    }),
    { numRuns: 2_000 },
  )
  expect(included).toBeGreaterThan(200)
})
