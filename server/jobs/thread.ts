/** A worker thread that answers one question at a time. What does not come to an end is stopped, and the thread with it. */
import { Worker } from 'node:worker_threads'

/** What the thread answers with. */
export type ThreadAnswer<A> = { value: A } | { failed: string } | 'ready'

/** The thread was stopped, or has crashed, before it could answer. */
export class ThreadStopped extends Error {}

interface Limits {
  /** How long an answer may take, in milliseconds. */
  longest?: number
  /** Memory of the thread, in megabytes. */
  memory?: number
}

/** A single thread, started on first use and again after it was stopped or has crashed. */
export class Thread<Q, A> {
  readonly #url: URL
  readonly #limits: Limits
  #worker: Worker | undefined
  #isReady = false
  #waiting: { done(answer: A): void; fail(error: Error): void; timer: NodeJS.Timeout | undefined } | undefined
  #last: Promise<unknown> = Promise.resolve()

  /** @param url of the module that the thread runs */
  constructor(url: URL, limits: Limits = {}) {
    this.#url = url
    this.#limits = limits
  }

  /** @throws ThreadStopped if the answer takes too long or too much memory; otherwise what the thread has thrown */
  ask(question: Q): Promise<A> {
    const asked = this.#last.then(() => this.#askNow(question))
    this.#last = asked.catch(() => undefined)
    return asked
  }

  async stop(): Promise<void> {
    await this.#end(new ThreadStopped('It was stopped.'))
  }

  #askNow(question: Q): Promise<A> {
    const worker = (this.#worker ??= this.#start())
    return new Promise((done, fail) => {
      this.#waiting = { done, fail, timer: undefined }
      if (this.#isReady) this.#limit()
      worker.postMessage(question)
    })
  }

  #start(): Worker {
    const { memory } = this.#limits
    this.#isReady = false
    const worker = new Worker(
      this.#url,
      memory === undefined ? {} : { resourceLimits: { maxOldGenerationSizeMb: memory } },
    )
    worker.unref()
    worker.on('message', (answer: ThreadAnswer<A>) => {
      if (answer === 'ready') {
        this.#isReady = true
        this.#limit()
        return
      }
      const waiting = this.#settle()
      if ('failed' in answer) waiting?.fail(new Error(answer.failed))
      else waiting?.done(answer.value)
    })
    const gone = (error: Error) => {
      if (this.#worker === worker) void this.#end(error)
    }
    worker.on('error', (error) => gone(new ThreadStopped(error.message)))
    worker.on('exit', () => gone(new ThreadStopped('It was stopped.')))
    return worker
  }

  /** Begins to count: starting a thread takes seconds on a busy machine, which is not the question's fault. */
  #limit(): void {
    const { longest } = this.#limits
    if (longest === undefined || !this.#waiting) return
    this.#waiting.timer = setTimeout(
      () => void this.#end(new ThreadStopped(`It took longer than ${longest / 1_000} s.`)),
      longest,
    )
  }

  #settle() {
    const waiting = this.#waiting
    this.#waiting = undefined
    clearTimeout(waiting?.timer)
    return waiting
  }

  async #end(error: Error): Promise<void> {
    const worker = this.#worker
    this.#worker = undefined
    this.#settle()?.fail(error)
    await worker?.terminate()
  }
}
