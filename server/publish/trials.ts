/**
 * Tries a definition before it counts: reads it, and renders an address of each affected route against the real content.
 * It happens in a worker thread, so that readers do not wait, and is stopped if it takes too long.
 */
import type { Problem } from '../../core/shapes/problem.ts'
import { PATIENCE, Thread, ThreadStopped } from '../jobs/thread.ts'
import { TRIAL_PROBLEMS } from './problems.ts'

/** Documents: path → text. */
export type Documents = ReadonlyMap<string, string>

/** What the thread is asked: to read a definition, or to render what a new one affects. */
export type TrialQuestion =
  | { kind: 'read'; documents: Documents }
  | { kind: 'render'; url: string; documents: Documents; current: Documents }

/** The problems of a definition, or the addresses that would fail. */
export type TrialAnswer = { problems: Problem[] } | { failed: FailedAddress[] }

/** A request that the definition would answer with a server error. */
export interface FailedAddress {
  method: string
  path: string
  status: number
  message: string
  file: string | undefined
  line: number | undefined
}

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

export class Trials {
  readonly #url: string
  /** Reports each address before it renders it. */
  readonly #thread = new Thread<TrialQuestion, TrialAnswer, string>('trial-thread', MEMORY)

  /** @param url of the database with the content */
  constructor(url: string) {
    this.#url = url
  }

  /** Returns the problems of a definition. */
  async read(documents: Documents): Promise<Problem[]> {
    try {
      const answer = await this.#thread.ask(
        { kind: 'read', documents },
        { longest: LONGEST.read, patience: PATIENCE },
      )
      return 'problems' in answer ? answer.problems : []
    } catch (error) {
      return [{ file: 'blog.yaml', ...TRIAL_PROBLEMS['definition-not-read'](reasonOf(error)) }]
    }
  }

  /** Returns the addresses that would fail with a definition, and do not with the current one. */
  async render(documents: Documents, current: Documents): Promise<Problem[]> {
    /** The address that is being rendered. */
    let path: string | undefined
    try {
      const answer = await this.#thread.ask(
        { kind: 'render', url: this.#url, documents, current },
        {
          longest: LONGEST.render,
          longestStep: LONGEST_ADDRESS,
          patience: PATIENCE,
          progress: (next) => (path = next),
        },
      )
      if ('problems' in answer) return answer.problems
      return firstOfEach(answer.failed).map(({ method, path: at, status, message, file, line }) => ({
        file: file ?? 'routes.yaml',
        ...(line === undefined ? {} : { line }),
        ...TRIAL_PROBLEMS['address-would-fail'](method, at, status, message),
      }))
    } catch (error) {
      return [
        path !== undefined && error instanceof ThreadStopped
          ? { file: 'routes.yaml', ...TRIAL_PROBLEMS['address-would-not-end'](path, reasonOf(error)) }
          : { file: 'blog.yaml', ...TRIAL_PROBLEMS['definition-not-tried'](reasonOf(error)) },
      ]
    }
  }

  stop(): Promise<void> {
    return this.#thread.stop()
  }
}

const reasonOf = (error: unknown): string => (error instanceof Error ? error.message : String(error))
