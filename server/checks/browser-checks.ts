/** Runs the checks that open pages in Chromium, on request, and holds the result of the last run. */
import type { CheckResult } from '../../core/checks/run.ts'
import { SingleJob } from '../jobs/single-job.ts'
import { Thread } from '../jobs/thread.ts'
import type { ClockPort, LogPort } from '../publish/ports.ts'
import { findChromium } from './chromium.ts'
import type { CheckAnswer, CheckedBlog, CheckQuestion, Progress } from './questions.ts'

export interface BrowserState extends CheckResult {
  /** The progress of the current run in pages; null if none is running. */
  running: Progress | null
  /** When the last complete run ended; null before the first. */
  finishedAt: Date | null
  milliseconds: number
  /** Whether something has changed since. */
  isOutdated: boolean
  /** Why the last run has failed; null if it has not. */
  failed: string | null
}

/** How long a page may take, in milliseconds. */
const LONGEST_STEP = 90_000

export class BrowserChecks {
  readonly #blog: ClockPort & LogPort
  readonly #checked: () => Promise<CheckedBlog>
  readonly #thread: Thread<CheckQuestion, CheckAnswer, Progress>
  readonly #job = new SingleJob()
  #isChanged = false
  #state: BrowserState = {
    findings: [],
    proven: [],
    runs: [],
    running: null,
    finishedAt: null,
    milliseconds: 0,
    isOutdated: false,
    failed: null,
  }

  /** @param memory of the thread, in megabytes */
  constructor(blog: ClockPort & LogPort, checked: () => Promise<CheckedBlog>, memory: number) {
    this.#blog = blog
    this.#checked = checked
    // A thread of its own: the checks after each save do not wait for it.
    this.#thread = new Thread('check-thread', memory)
  }

  get state(): BrowserState {
    return this.#state
  }

  /** The path of Chromium; undefined if it is not installed. */
  get program(): string | undefined {
    return findChromium()
  }

  /** Notes that the result is outdated. */
  changed(): void {
    this.#isChanged = true
    if (this.#state.finishedAt !== null) this.#state = { ...this.#state, isOutdated: true }
  }

  /** Starts a run, unless one is running. @param program the path of Chromium */
  start(program: string): void {
    const began = performance.now()
    this.#job.start(
      async (signal) => {
        this.#isChanged = false
        this.#state = { ...this.#state, running: { done: 0, total: 0 }, failed: null }
        const answer = await this.#thread.ask(
          { kind: 'browser', program, ...(await this.#checked()) },
          {
            signal,
            longestStep: LONGEST_STEP,
            progress: (running) => (this.#state = { ...this.#state, running }),
          },
        )
        if (answer.kind !== 'browser') throw new Error('The thread has answered another question.')
        this.#state = {
          ...answer.result,
          running: null,
          finishedAt: this.#blog.clock(),
          milliseconds: performance.now() - began,
          isOutdated: this.#isChanged,
          failed: null,
        }
      },
      (message, isCancelled) => {
        if (!isCancelled) this.#blog.log.error({ error: message }, 'checks in a browser failed')
        this.#state = { ...this.#state, running: null, failed: isCancelled ? null : message }
      },
    )
  }

  /** Waits until the current run has ended. */
  ended = (): Promise<void> => this.#job.ended()

  cancel = (): Promise<boolean> => this.#job.cancel()

  async stop(): Promise<void> {
    await this.#job.cancel()
    await this.#thread.stop()
  }
}
