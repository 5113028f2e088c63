// The lease protocol of `lease.ts`, explored exhaustively: two processes, three writes, lost messages and pauses of any
// length. Assumed: time passes equally fast everywhere, and a read that begins after a commit sees it. Messages may be
// lost in both directions, and whoever does nothing for a while is paused. Time goes in steps of half a second.
import { describe, expect, it } from 'vitest'
import { isLeaseValid, LEASE_VALID, LEASE_WAIT } from './lease.ts'

const STEP = 500

/** What a process does: nothing, has asked for the log, has its answer, or has asked to record what it has seen. */
type Phase = 'idle' | 'asked' | 'answered' | 'recording'

interface Process {
  /** Whether the database has it in the list, and which writes it has seen by that: none of them is −1. */
  isListed: boolean
  recorded: number
  /** The writes that it has applied: the first ones, in the order of their commits. */
  applied: number
  /** Steps since the moment from which its lease runs; `NONE` without one. */
  lease: number
  phase: Phase
  /** The writes that the answer has. */
  read: number
  /** Steps since it has asked. */
  since: number
}
/** Steps since the commit: `NEW` before it, `DONE` once it is acknowledged. */
type Write = number
const NONE = 9
const NEW = -1
const DONE = 9

interface State {
  processes: Process[]
  writes: Write[]
}

interface Protocol {
  valid: number
  wait: number
  /** From when a lease runs. */
  from: 'asking' | 'recording'
  /** Whether what was read is applied before it is recorded. */
  appliesFirst: boolean
  /** Whether a process that is not in the list any more gets no lease. */
  checksList: boolean
  /** Whether a writer waits for processes that have not recorded anything yet. */
  waitsForNew: boolean
}
const REAL: Protocol = {
  valid: LEASE_VALID / STEP,
  wait: LEASE_WAIT / STEP,
  from: 'asking',
  appliesFirst: true,
  checksList: true,
  waitsForNew: true,
}

const START: State = {
  processes: Array.from({ length: 2 }, () => ({
    isListed: false,
    recorded: -1,
    applied: 0,
    lease: NONE,
    phase: 'idle' as const,
    read: 0,
    since: 0,
  })),
  writes: [NEW, NEW, NEW],
}

const committed = ({ writes }: State) => writes.filter((one) => one !== NEW).length
const PHASES: readonly Phase[] = ['idle', 'asked', 'answered', 'recording']

/** Identifies a process: digits, each with the number of its values. */
const codeOf = (one: Process): number => {
  let code = one.isListed ? 1 : 0
  code = code * 5 + one.recorded + 1
  code = code * 4 + one.applied
  code = code * 3 + (one.lease === NONE ? 2 : one.lease)
  code = code * 4 + PHASES.indexOf(one.phase)
  code = code * 4 + one.read
  return code * 3 + one.since
}
const CODES = 2 * 5 * 4 * 3 * 4 * 4 * 3

/** Identifies a state. Which process is which does not matter. */
function keyOf({ processes, writes }: State): number {
  const codes = processes.map(codeOf).sort((a, b) => a - b)
  let key = 0
  for (const code of codes) key = key * CODES + code
  for (const write of writes) key = key * 6 + (write === DONE ? 5 : write + 1)
  return key
}

function* next(state: State, protocol: Protocol): Generator<State> {
  yield later(state, protocol)
  yield* writeSteps(state, protocol)
  for (const [index, one] of state.processes.entries())
    for (const changed of processSteps(one, committed(state), protocol))
      yield { ...state, processes: state.processes.with(index, { ...one, ...changed }) }
}

function later({ processes, writes }: State, { valid, wait }: Protocol): State {
  return {
    processes: processes.map((one) => ({
      ...one,
      lease: one.lease + 1 >= valid ? NONE : one.lease + 1,
      since: one.phase === 'idle' ? 0 : Math.min(one.since + 1, valid),
    })),
    writes: writes.map((one) => (one === NEW || one === DONE ? one : Math.min(one + 1, wait))),
  }
}

function* writeSteps(state: State, { wait, waitsForNew }: Protocol): Generator<State> {
  const { processes, writes } = state
  const count = committed(state)
  if (count < writes.length) yield { ...state, writes: writes.with(count, 0) }
  for (const [index, age] of writes.entries()) {
    if (age === NEW || age === DONE) continue
    const isBehind = (one: Process) =>
      one.isListed && one.recorded <= index && (waitsForNew || one.recorded !== -1)
    if (!processes.some(isBehind)) yield { ...state, writes: writes.with(index, DONE) }
    else if (age >= wait)
      yield {
        processes: processes.map((one) => (isBehind(one) ? { ...one, isListed: false, recorded: -1 } : one)),
        writes: writes.with(index, DONE),
      }
  }
}

function* processSteps(one: Process, count: number, protocol: Protocol): Generator<Partial<Process>> {
  // Any message may be lost, after which the process starts over.
  if (one.phase !== 'idle') yield { phase: 'idle', read: 0, since: 0 }
  switch (one.phase) {
    case 'idle':
      if (!one.isListed) yield { isListed: true, recorded: -1 }
      yield { phase: 'asked', since: 0 }
      break
    case 'asked':
      // The recorded number of writes is one more than the index of the last one.
      yield { phase: 'answered', read: count }
      break
    case 'answered':
      yield {
        phase: 'recording',
        ...(protocol.appliesFirst ? { applied: Math.max(one.applied, one.read) } : {}),
        ...(protocol.from === 'recording' ? { since: 0 } : {}),
      }
      break
    case 'recording': {
      const recorded = one.isListed ? { recorded: Math.max(one.recorded, one.read) } : {}
      const isGranted = one.isListed || !protocol.checksList
      const lease = isGranted && one.since < protocol.valid ? Math.min(one.since, one.lease) : one.lease
      const done = { phase: 'idle' as const, read: 0, since: 0 }
      yield { ...recorded, lease, ...done }
      if (!protocol.appliesFirst) yield { ...recorded, lease, ...done, applied: one.read }
      // Recorded, but the answer is lost.
      yield { ...recorded, ...done }
    }
  }
}

/** Whether a process with a lease lacks a write that was acknowledged. */
const isStale = ({ processes, writes }: State) =>
  processes.some(
    (one) => one.lease !== NONE && writes.some((age, index) => age === DONE && one.applied <= index),
  )

/** Returns how many states can be reached, or how many steps lead to one in which a process serves something old. */
function explore(protocol: Protocol): { states: number; stepsToOldCopy: number | null } {
  const seen = new Set([keyOf(START)])
  let states = [START]
  for (let steps = 0; states.length > 0; steps++) {
    const after: State[] = []
    for (const state of states) {
      if (isStale(state)) return { states: seen.size, stepsToOldCopy: steps }
      for (const one of next(state, protocol)) {
        const key = keyOf(one)
        if (seen.has(key)) continue
        seen.add(key)
        after.push(one)
      }
    }
    states = after
  }
  return { states: seen.size, stepsToOldCopy: null }
}

describe('leases', () => {
  it('no process ever serves a copy from before an acknowledged write', { timeout: 120_000 }, () => {
    const { states, stepsToOldCopy } = explore(REAL)
    expect(stepsToOldCopy).toBeNull()
    expect(states).toBeGreaterThan(500_000)
  })

  it.each<[string, Partial<Protocol>]>([
    ['writers wait for less time than a lease lasts', { wait: 1 }],
    ['a lease runs from when what was seen is recorded', { from: 'recording' }],
    ['what was seen is recorded before it is applied', { appliesFirst: false }],
    ['a process that was removed gets a lease', { checksList: false }],
    ['writers do not wait for a process that has just registered', { waitsForNew: false }],
  ])('the exploration finds an old copy if %s', { timeout: 120_000 }, (_, change) => {
    expect(explore({ ...REAL, ...change }).stepsToOldCopy).toBeGreaterThan(3)
  })

  it('a process whose clocks disagree has none: it was suspended, or its clock was set', () => {
    const from = { steady: 1_000, day: 50_000 }
    const after = (steady: number, day: number) =>
      isLeaseValid(from, { steady: from.steady + steady, day: from.day + day })
    expect(after(999, 999)).toBe(true)
    expect([after(1_000, 1_000), after(10, 3_600_000), after(10, -3_600_000), after(0, 60_000)]).toEqual(
      Array(4).fill(false),
    )
    expect(isLeaseValid(undefined, from)).toBe(false)
  })
})
