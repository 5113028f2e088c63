/** Starts and watches the processes that serve readers, and asks them what the workbench wants to know. */
import cluster, { type Worker } from 'node:cluster'
import { setTimeout } from 'node:timers/promises'
import { fileURLToPath } from 'node:url'
import { bundleOf } from '../jobs/thread.ts'
import { freePort } from '../store/cluster.ts'
import type { Log } from '../publish/ports.ts'
import type { Comparison, CopiesPort } from '../reader/copies.ts'
import type { Traffic } from '../reader/traffic.ts'
import type { FromReader, QuestionName, ReaderStart, ToReader } from './messages.ts'

/** How long a process is waited for that has to stop, and for its answer, in milliseconds. */
const LONGEST_STOP = 5_000
const LONGEST_ANSWER = 3_000
/** Ten pages are rendered for a comparison. */
const LONGEST_COMPARISON = 60_000
/** How long to wait before a process is started again that has ended, in milliseconds: twice as long each time. */
const FIRST_PAUSE = 200
const LONGEST_PAUSE = 10_000
/** A process that has run for this long, in milliseconds, is started again without a wait. */
const RAN_WELL = 60_000

interface Ready {
  origin: string
  port: number
  moved: string[]
}

export interface ReaderProcessesOptions {
  count: number
  start: Omit<ReaderStart, 'mayMove'>
  log: Log
  /** Gets the requests of all processes. */
  traffic: Traffic
}

export class ReaderProcesses {
  readonly #options: ReaderProcessesOptions
  readonly #workers = new Set<Worker>()
  readonly #waiting = new Map<number, { done(answer: unknown): void; fail(error: Error): void }>()
  #port: number
  #questions = 0
  #isStopped = false

  constructor(options: ReaderProcessesOptions) {
    this.#options = options
    this.#port = options.start.port
  }

  /** Starts all of them. @returns where they listen @throws if one cannot start */
  async start(): Promise<Ready> {
    cluster.setupPrimary({
      exec: fileURLToPath(bundleOf('reader-process')),
      args: [],
      serialization: 'advanced',
    })
    // Processes share a port by its number, so that it has to be known.
    if (this.#port === 0) this.#port = await freePort()
    // The first one finds a free port, which the others share.
    const first = await this.#fork(true)
    this.#port = first.port
    await Promise.all(Array.from({ length: this.#options.count - 1 }, () => this.#fork(false)))
    return first
  }

  async stop(): Promise<void> {
    this.#isStopped = true
    await Promise.all([...this.#workers].map((worker) => stopped(worker)))
  }

  /** Process ids. */
  get processes(): number[] {
    return [...this.#workers].flatMap((one) => (one.process.pid === undefined ? [] : [one.process.pid]))
  }

  /** Asks all processes. One that does not answer is left out, but not of a comparison, which would claim too much. */
  get copies(): CopiesPort {
    return {
      copies: () => this.#ask('copies', []),
      counts: () => this.#ask('counts', []),
      text: (key) => this.#ask('text', [key]),
      drop: (key) => this.#ask('drop', [key]),
      clear: () => this.#ask('clear', []),
      compare: (addresses) =>
        Promise.all(
          [...this.#workers].map(
            (one) => this.#askOne(one, 'compare', [addresses], LONGEST_COMPARISON) as Promise<Comparison>,
          ),
        ),
    }
  }

  async #ask<T>(name: QuestionName, words: readonly unknown[]): Promise<T[]> {
    const answers = await Promise.allSettled([...this.#workers].map((one) => this.#askOne(one, name, words)))
    return answers.flatMap((one) => (one.status === 'fulfilled' ? [one.value as T] : []))
  }

  #askOne(
    worker: Worker,
    ask: QuestionName,
    words: readonly unknown[],
    longest = LONGEST_ANSWER,
  ): Promise<unknown> {
    const id = ++this.#questions
    const answered = new Promise((done, fail) => {
      this.#waiting.set(id, { done, fail })
      send(worker, { ask, id, words })
    })
    const late = setTimeout(longest, undefined, { ref: false }).then(() => {
      throw new Error('A process that serves readers does not answer.')
    })
    return Promise.race([answered, late]).finally(() => this.#waiting.delete(id))
  }

  #fork(mayMove: boolean): Promise<Ready> {
    const { start, log } = this.#options
    const worker = cluster.fork()
    const began = performance.now()
    this.#workers.add(worker)
    return new Promise((done, fail) => {
      let isReady = false
      worker.on('message', (message: FromReader) => {
        if ('loaded' in message) send(worker, { start: { ...start, port: this.#port, mayMove } })
        else if ('ready' in message) {
          isReady = true
          done(message.ready)
        } else if ('failed' in message) fail(new Error(message.failed))
        else this.#received(message)
      })
      worker.on('error', (error) =>
        log.error({ error: error.message }, 'a process that serves readers failed'),
      )
      worker.on('exit', (code, signal) => {
        this.#workers.delete(worker)
        if (!isReady) fail(new Error(`A process that serves readers ended (${signal ?? code}).`))
        else if (!this.#isStopped) {
          log.error({ code, signal }, 'a process that serves readers ended, and is started again')
          void this.#startAgain(performance.now() - began > RAN_WELL ? 0 : FIRST_PAUSE)
        }
      })
    })
  }

  async #startAgain(first: number): Promise<void> {
    for (let pause = first; ; pause = Math.min(LONGEST_PAUSE, 2 * Math.max(pause, FIRST_PAUSE))) {
      await setTimeout(pause)
      if (this.#isStopped) return
      try {
        await this.#fork(false)
        return
      } catch (error) {
        this.#options.log.error(
          { error: String(error) },
          'a process that serves readers could not be started',
        )
      }
    }
  }

  #received(message: Exclude<FromReader, { loaded: true } | { ready: unknown } | { failed: unknown }>): void {
    const { log, traffic } = this.#options
    if ('log' in message) log[message.log.level](message.log.details, message.log.message)
    else if ('traffic' in message) for (const entry of message.traffic) traffic.add(entry)
    else {
      const waiting = this.#waiting.get(message.id)
      if ('error' in message) waiting?.fail(new Error(message.error))
      else waiting?.done(message.answer)
    }
  }
}

function send(worker: Worker, message: ToReader): void {
  if (worker.isConnected()) worker.send(message)
}

async function stopped(worker: Worker): Promise<void> {
  if (worker.isDead()) return
  const ended = new Promise<void>((done) => worker.once('exit', () => done()))
  send(worker, { stop: true })
  const late = setTimeout(LONGEST_STOP, 'late' as const, { ref: false })
  if ((await Promise.race([ended, late])) === 'late') worker.process.kill('SIGKILL')
  await ended
}
