/** The result of anything that can be refused: a value, or why there is none. */
import type { Problem } from './problem.ts'

export type Outcome<T> = Success<T> | Failure

export interface Success<T> {
  ok: true
  value: T
}

export interface Failure {
  ok: false
  /**
   * - `problems`: the input is not valid.
   * - `conflict`: someone else has saved a newer version, which `current` describes.
   * - `unknown`: what the input names does not exist.
   * - `blocked`: the current state does not allow it.
   */
  why: 'problems' | 'conflict' | 'unknown' | 'blocked'
  /** At least one. */
  problems: Problem[]
  current?: Current
}

/** What is stored instead of the version that was read. */
export interface Current {
  /** The document's path, where several were saved together. */
  document?: string
  version: number
  text?: string
}

export const success = <T>(value: T): Success<T> => ({ ok: true, value })

export const refused = (...problems: Problem[]): Failure => ({ ok: false, why: 'problems', problems })

export const unknown = (problem: Problem): Failure => ({ ok: false, why: 'unknown', problems: [problem] })

export const blocked = (problem: Problem): Failure => ({ ok: false, why: 'blocked', problems: [problem] })

export const conflict = (problem: Problem, current: Current): Failure => ({
  ok: false,
  why: 'conflict',
  problems: [problem],
  current,
})
