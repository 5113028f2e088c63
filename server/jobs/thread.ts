/** A worker thread that answers one question at a time. A question that takes too long is stopped, and the thread with it. */
import { join } from 'node:path'
import { pathToFileURL } from 'node:url'
import { Worker } from 'node:worker_threads'
import { Deadline } from './deadline.ts'
import { timeOn } from './thread-clock.ts'

/** What the thread is sent. */
export type ThreadRequest<Q> = { question: Q } | 'abort'

/** What the thread sends: first that it is ready, with its clock (`thread-clock.ts`). */
export type ThreadMessage<A, P> =
  { ready: string | null } | { value: A } | { failed: string } | { progress: P }

/** How long a thread may go on after its question was aborted, in milliseconds. */
const AFTER_ABORT = 5_000

/** The thread was stopped, or has crashed, before it could answer. */
export class ThreadStopped extends Error {}

/** The patience with questions that compute, and wait for nothing but the database. */
export const PATIENCE = 4

export interface Asking<P> {
  /** How long the answer may take, in milliseconds. */
  longest?: number
  /** How long may pass between two reports of progress, in milliseconds. */
  longestStep?: number
  /** How many times as long both may take while the thread waits for the processor or the database. 1 if it is missing. */
  patience?: number
  /** Called with each report of progress. */
  progress?: (step: P) => void
  /** Aborts the question. The thread is only stopped if it goes on working on it. */
  signal?: AbortSignal
}

interface Waiting<A, P> extends Asking<P> {
  done(answer: A): void
  fail(error: Error): void
  limits: { whole?: Deadline; step?: Deadline }
  unwatch(): void
}

/** A single thread, started on first use and again after a question was stopped or the thread has crashed. */
export class Thread<Q, A, P = never> {
  readonly #module: string | URL
  readonly #memory: number | undefined
  #worker: Worker | undefined
  #isReady = false
  #clock: string | null = null
  #isStopped = false
  #waiting: Waiting<A, P> | undefined
  #last: Promise<unknown> = Promise.resolve()

  /**
   * @param module what the thread runs: the name of a bundle (`scripts/bundles.ts`), or a URL
   * @param memory in megabytes
   */
  constructor(module: string | URL, memory?: number) {
    this.#module = module
    this.#memory = memory
  }

  /**
   * @throws ThreadStopped if the answer takes too long or too much memory, the signal's reason if it is aborted, otherwise
   * an error with the message of what the thread has thrown
   */
  ask(question: Q, asking: Asking<P> = {}): Promise<A> {
    const asked = this.#last.then(() => this.#askNow(question, asking))
    this.#last = asked.catch(() => undefined)
    return asked
  }

  /** Ends the thread for good. */
  async stop(): Promise<void> {
    this.#isStopped = true
    await this.#end('It was stopped.')
  }

  #askNow(question: Q, asking: Asking<P>): Promise<A> {
    if (this.#isStopped) return Promise.reject(new ThreadStopped('It was stopped.'))
    const { signal } = asking
    if (signal?.aborted) return Promise.reject(reasonOf(signal))
    const worker = (this.#worker ??= this.#start())
    // Only a question keeps the process running. A listener for messages does, too, until this is taken back.
    worker.ref()
    const send = (request: ThreadRequest<Q>) => worker.postMessage(request)
    return new Promise((done, fail) => {
      const waiting: Waiting<A, P> = {
        ...asking,
        done,
        fail: (error) => fail(signal?.aborted ? reasonOf(signal) : error),
        limits: {},
        unwatch: () => signal?.removeEventListener('abort', abort),
      }
      const abort = () => {
        send('abort')
        waiting.limits.whole?.clear()
        waiting.limits.whole = this.#endAfter(AFTER_ABORT, 1)
      }
      signal?.addEventListener('abort', abort)
      this.#waiting = waiting
      if (this.#isReady) this.#beginTime()
      send({ question })
    })
  }

  #start(): Worker {
    this.#isReady = false
    const worker = new Worker(
      this.#module instanceof URL ? this.#module : bundleOf(this.#module),
      this.#memory === undefined ? {} : { resourceLimits: { maxOldGenerationSizeMb: this.#memory } },
    )
    worker.on('message', (message: ThreadMessage<A, P>) => this.#received(message))
    const gone = (reason: string) => {
      if (this.#worker === worker) void this.#end(reason)
    }
    worker.on('error', (error) => gone(error.message))
    worker.on('exit', () => gone('It was stopped.'))
    return worker
  }

  #received(message: ThreadMessage<A, P>): void {
    if ('ready' in message) {
      this.#isReady = true
      this.#clock = message.ready
      this.#beginTime()
    } else if ('progress' in message) {
      this.#waiting?.progress?.(message.progress)
      this.#beginStep()
    } else if ('failed' in message) this.#settle()?.fail(new Error(message.failed))
    else this.#settle()?.done(message.value)
  }

  /** The time of a question begins once the thread is ready: loading it takes seconds on a busy machine. */
  #beginTime(): void {
    const { longest, patience, limits } = this.#waiting ?? {}
    if (limits && longest !== undefined) limits.whole ??= this.#endAfter(longest, patience)
  }

  #beginStep(): void {
    const { longestStep, patience, limits } = this.#waiting ?? {}
    limits?.step?.clear()
    if (limits && longestStep !== undefined) limits.step = this.#endAfter(longestStep, patience)
  }

  #endAfter(milliseconds: number, patience = 1): Deadline {
    const used = () => (this.#clock === null ? undefined : timeOn(this.#clock))
    return new Deadline({ milliseconds, patience }, used, (taken) => {
      const seconds = taken < 2 * milliseconds ? milliseconds / 1_000 : Math.floor(taken / 1_000)
      void this.#end(`It took longer than ${seconds} s.`)
    })
  }

  #settle(): Waiting<A, P> | undefined {
    const waiting = this.#waiting
    this.#waiting = undefined
    this.#worker?.unref()
    waiting?.limits.whole?.clear()
    waiting?.limits.step?.clear()
    waiting?.unwatch()
    return waiting
  }

  async #end(reason: string): Promise<void> {
    const worker = this.#worker
    this.#worker = undefined
    this.#settle()?.fail(new ThreadStopped(reason))
    await worker?.terminate()
  }
}

/** Returns the bundle of a thread or of a process. */
export function bundleOf(name: string): URL {
  const folder = process.env['ESQUINA_BUNDLES']
  if (!folder) throw new Error('Threads run from bundles. Use “npm start” or “npm test”.')
  return pathToFileURL(join(folder, `${name}.mjs`))
}

const reasonOf = ({ reason }: AbortSignal): Error =>
  reason instanceof Error ? reason : new Error(String(reason))
