/**
 * Tries a definition before it counts: reads it, and renders an address of each affected route against the real content.
 * It happens in a worker thread, so readers do not wait, and what does not come to an end is stopped.
 */
import { Worker } from 'node:worker_threads'
import type { Problem } from '../../core/shapes/problem.ts'
import { TRIAL_PROBLEMS } from './problems.ts'

/** Documents: path → text. */
export type Documents = ReadonlyMap<string, string>

export type TrialRequest =
  | { id: number; url: string; kind: 'read'; documents: Documents }
  | { id: number; url: string; kind: 'render'; documents: Documents; current: Documents }

/** A request that the definition would answer with a server error. */
export interface FailedAddress {
  method: string
  path: string
  status: number
  message: string
  file: string | undefined
  line: number | undefined
}

export type TrialMessage =
  /** The thread has started. */
  | { id: 0; kind: 'ready' }
  | { id: number; kind: 'trying'; path: string }
  | { id: number; kind: 'read'; problems: Problem[] }
  | { id: number; kind: 'rendered'; failed: FailedAddress[]; tried: number }
  | { id: number; kind: 'crashed'; message: string }

/** How long reading a definition, and rendering all addresses, may take, in milliseconds. */
const LONGEST = { read: 10_000, render: 30_000 }
/** How long one address may take, in milliseconds. */
const LONGEST_ADDRESS = 8_000
/** Memory of the thread, in megabytes. */
const MEMORY = 512

/** One cause is one problem: of the addresses that fail on the same line, the first is named. */
function firstOfEach(failed: readonly FailedAddress[]): FailedAddress[] {
  const known = new Map<string, FailedAddress>()
  for (const one of failed) {
    const cause = `${one.file ?? ''}:${one.line ?? one.message}`
    if (!known.has(cause)) known.set(cause, one)
  }
  return [...known.values()]
}

interface Waiting {
  request: TrialRequest
  done(message: TrialMessage | Stopped): void
  /** Of all the work. */
  timer: NodeJS.Timeout | undefined
  /** Of the address that is being rendered. */
  ofAddress: NodeJS.Timeout | undefined
  /** The address that is being rendered. */
  path: string | undefined
}

/** The thread was ended, because the work took too long or too much memory. */
interface Stopped {
  kind: 'stopped'
  path: string | undefined
  reason: string
}

const reasonOf = (answer: TrialMessage | Stopped): string =>
  answer.kind === 'stopped' ? answer.reason : answer.kind === 'crashed' ? answer.message : ''

export class Trials {
  readonly #url: string
  #worker: Worker | undefined
  #waiting: Waiting | undefined
  #last: Promise<unknown> = Promise.resolve()
  #next = 1
  #isStopped = false
  #isReady = false

  /** @param url of the database with the content */
  constructor(url: string) {
    this.#url = url
  }

  /** Returns the problems of a definition. */
  async read(documents: Documents): Promise<Problem[]> {
    const answer = await this.#ask((id) => ({ id, url: this.#url, kind: 'read', documents }))
    if (answer.kind === 'read') return answer.problems
    return [{ file: 'blog.yaml', ...TRIAL_PROBLEMS['definition-not-read'](reasonOf(answer)) }]
  }

  /** Returns the addresses that would fail with a definition, and do not with the current one. */
  async render(documents: Documents, current: Documents): Promise<Problem[]> {
    const answer = await this.#ask((id) => ({ id, url: this.#url, kind: 'render', documents, current }))
    if (answer.kind === 'read') return answer.problems
    if (answer.kind === 'rendered')
      return firstOfEach(answer.failed).map(({ method, path, status, message, file, line }) => ({
        file: file ?? 'routes.yaml',
        ...(line === undefined ? {} : { line }),
        ...TRIAL_PROBLEMS['address-would-fail'](method, path, status, message),
      }))
    const path = answer.kind === 'stopped' ? answer.path : undefined
    return [
      path === undefined
        ? { file: 'blog.yaml', ...TRIAL_PROBLEMS['definition-not-tried'](reasonOf(answer)) }
        : { file: 'routes.yaml', ...TRIAL_PROBLEMS['address-would-not-end'](path, reasonOf(answer)) },
    ]
  }

  async stop(): Promise<void> {
    this.#isStopped = true
    await this.#worker?.terminate()
    this.#worker = undefined
  }

  /** One request at a time. */
  #ask(request: (id: number) => TrialRequest): Promise<TrialMessage | Stopped> {
    const asked = this.#last.then(() => this.#askNow(request(this.#next++)))
    this.#last = asked.catch(() => undefined)
    return asked
  }

  #askNow(request: TrialRequest): Promise<TrialMessage | Stopped> {
    if (this.#isStopped)
      return Promise.resolve({ kind: 'stopped', path: undefined, reason: 'It was stopped.' })
    const worker = (this.#worker ??= this.#start())
    return new Promise((done) => {
      this.#waiting = { request, done, timer: undefined, ofAddress: undefined, path: undefined }
      if (this.#isReady) this.#limit()
      worker.postMessage(request)
    })
  }

  /** Begins to count: starting the thread takes seconds on a busy machine, which is not the definition's fault. */
  #limit(): void {
    if (!this.#waiting) return
    const longest = LONGEST[this.#waiting.request.kind]
    this.#waiting.timer = setTimeout(() => this.#end(`It took longer than ${longest / 1_000} s.`), longest)
  }

  #start(): Worker {
    this.#isReady = false
    const worker = new Worker(new URL('../trials/trial-thread.mjs', import.meta.url), {
      resourceLimits: { maxOldGenerationSizeMb: MEMORY },
    })
    worker.unref()
    worker.on('message', (message: TrialMessage) => this.#heard(message))
    worker.on('error', (error) => {
      if (this.#worker === worker) this.#end(error.message)
    })
    worker.on('exit', () => {
      if (this.#worker === worker) this.#end('It was stopped.')
    })
    return worker
  }

  #heard(message: TrialMessage): void {
    if (message.kind === 'ready') {
      this.#isReady = true
      this.#limit()
      return
    }
    const waiting = this.#waiting
    if (!waiting || waiting.request.id !== message.id) return
    if (message.kind === 'trying') {
      waiting.path = message.path
      clearTimeout(waiting.ofAddress)
      waiting.ofAddress = setTimeout(
        () => this.#end(`It took longer than ${LONGEST_ADDRESS / 1_000} s.`),
        LONGEST_ADDRESS,
      )
      return
    }
    clearTimeout(waiting.timer)
    clearTimeout(waiting.ofAddress)
    this.#waiting = undefined
    waiting.done(message)
  }

  /** Ends the thread, and what it was doing. The next request starts another one. */
  #end(reason: string): void {
    const waiting = this.#waiting
    const worker = this.#worker
    this.#waiting = undefined
    this.#worker = undefined
    void worker?.terminate()
    if (!waiting) return
    clearTimeout(waiting.timer)
    clearTimeout(waiting.ofAddress)
    waiting.done({ kind: 'stopped', path: waiting.path, reason })
  }
}
