/** Measurements as jobs: one at a time, with progress and cancellation. Results are stored with date and machine. */
import { describeQuery } from '../../core/queries/explaining/describe.ts'
import type { ClockPort, DatabasePort, LogPort, SitePort } from '../publish/ports.ts'
import { fillBasics, fillTo, type Filling } from './fill.ts'
import {
  adviseIndex,
  machineNote,
  measureSize,
  needsOf,
  sampleParameters,
  type SizeResult,
  type Subject,
} from './measure.ts'
import { SingleJob } from '../jobs/single-job.ts'
import { storeResult } from './stored.ts'
import type { GrowthResult } from '../../contract/growth-result.ts'
import { makeScratch } from './scratch.ts'

export interface GrowthProgress {
  /** The names of the queries that are measured. */
  queries: string[]
  sizes: number[]
  /** The current step. */
  doing: string
  /** 0 … 1 */
  share: number
  startedAt: Date
}

/** Why the last measurement did not complete. */
export interface GrowthFailure {
  queries: string[]
  message: string
  isCancelled: boolean
}

export type JobPorts = DatabasePort & SitePort & ClockPort & LogPort

export class GrowthJobs {
  readonly #blog: JobPorts
  readonly #onResult: () => void
  readonly #job = new SingleJob()
  #progress: GrowthProgress | null = null
  failure: GrowthFailure | null = null

  /** @param onResult called after results were stored */
  constructor(blog: JobPorts, onResult: () => void = () => undefined) {
    this.#onResult = onResult
    this.#blog = blog
  }

  get progress(): GrowthProgress | null {
    return this.#job.isRunning ? this.#progress : null
  }

  /** Starts a measurement. @returns false if another one is running */
  start(subjects: readonly Subject[], sizes: readonly number[]): boolean {
    if (this.#job.isRunning) return false
    const queries = subjects.map((one) => one.name)
    const progress: GrowthProgress = {
      queries,
      sizes: [...sizes].sort((a, b) => a - b),
      doing: 'Creating a database',
      share: 0,
      startedAt: this.#blog.clock(),
    }
    this.failure = null
    this.#progress = progress
    return this.#job.start(
      (signal) => this.#run(subjects, progress, signal),
      (message, isCancelled) => {
        this.failure = { queries, message, isCancelled }
        if (!isCancelled) this.#blog.log.error({ error: message }, 'measuring growth failed')
      },
    )
  }

  /** Cancels the measurement and waits until its database is deleted. */
  cancel(): Promise<boolean> {
    return this.#job.cancel()
  }

  /** Waits for the current measurement, if there is one. */
  ended(): Promise<void> {
    return this.#job.ended()
  }

  async #run(subjects: readonly Subject[], progress: GrowthProgress, signal: AbortSignal): Promise<void> {
    const began = performance.now()
    const scratch = await makeScratch(this.#blog.database)
    // Deleting the database closes the connection, so cancelling does not wait for a long statement.
    const stop = () => void scratch.drop().catch(() => undefined)
    signal.addEventListener('abort', stop)
    try {
      signal.throwIfAborted()
      const needs = joined(subjects.map(needsOf))
      await fillBasics(scratch.database, needs)
      const found = new Map<string, SizeResult[]>(subjects.map((one) => [one.name, []]))
      const whole = progress.sizes.reduce((sum, size) => sum + weightOf(size), 0)
      let [before, done] = [0, 0]
      for (const size of progress.sizes) {
        const weight = weightOf(size)
        const words = size.toLocaleString('en-GB')
        const tell = (doing: string, part: number) => {
          progress.doing = doing
          progress.share = (done + weight * part) / whole
        }
        tell(`Generating ${words} posts`, 0)
        await fillTo(scratch.database, before, size, needs, signal, (posts) =>
          tell(`Generating ${words} posts`, (FILLING * (posts - before)) / (size - before)),
        )
        for (const [at, subject] of subjects.entries()) {
          const share = FILLING + ((1 - FILLING) * at) / subjects.length
          const result = await measureSize(scratch.database, subject, size, signal, (what) =>
            tell(`Running “${subject.name}” with ${words} posts: ${what}`, share),
          )
          found.get(subject.name)?.push(result)
        }
        before = size
        done += weight
      }
      const machine = await machineNote(scratch.database)
      for (const subject of subjects)
        await storeResult(this.#blog, subject.meaning, {
          ...resultOf(subject, progress.sizes, found.get(subject.name) ?? []),
          notes: notesOf(found.get(subject.name) ?? [], needs),
          machine,
          milliseconds: performance.now() - began,
        })
      this.#onResult()
    } catch (error) {
      // After cancelling, statements fail because their database is deleted.
      signal.throwIfAborted()
      throw error
    } finally {
      signal.removeEventListener('abort', stop)
      await scratch.drop()
    }
  }
}

/** The share of the time that generating posts takes. */
const FILLING = 0.6
const weightOf = (size: number) => size ** 0.8

const joined = (needs: readonly Filling[]): Filling => ({
  comments: needs.some((one) => one.comments),
  words: needs.some((one) => one.words),
})

function resultOf(
  { name, meaning }: Subject,
  sizes: number[],
  found: readonly SizeResult[],
): Omit<GrowthResult, 'notes' | 'machine' | 'milliseconds'> {
  const measured = found.flatMap((one) => one.measured)
  const last = found.at(-1)
  const tried = last?.tried ?? []
  return {
    query: name,
    sentence: describeQuery(meaning),
    parameters: sampleParameters(meaning, sizes.at(-1) ?? 0),
    sizes,
    totals: found.map((one) => one.total),
    measured,
    tried,
    advised: adviseIndex(meaning, tried, measured),
    serving: last?.serving ?? [],
    readsAll: last?.readsAll ?? [],
  }
}

function notesOf(found: readonly SizeResult[], { comments, words }: Filling): string[] {
  return [
    ...new Set(found.flatMap((one) => one.notes)),
    ...(comments ? [] : ['Without comments, which the query does not read.']),
    ...(words ? [] : ['Without the search index, which the query does not use.']),
  ]
}
