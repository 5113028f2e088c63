/** What the thread for checks is asked, and what it answers. */
import type { Finding, Fix } from '../../core/checks/finding.ts'
import type { Counted } from './copy-facts.ts'
import type { CheckResult } from '../../core/checks/run.ts'

/** The blog that is checked: the definition and the content are read from its database. */
export interface CheckedBlog {
  url: string
  /** Signs cursors, so that an address found by a check is one that the blog answers. */
  cursorKey: Uint8Array
  now: Date
  origins: readonly string[]
  commentService: string | null
  /** How often copies were stored and used in the last hour. */
  counted: Counted
}

export type CheckQuestion = CheckedBlog &
  (
    | { kind: 'run' }
    /** Opens pages in a browser. `program`: the path of Chromium. */
    | { kind: 'browser'; program: string }
    /** `before`: all findings of the blog as it is. */
    | { kind: 'fix'; finding: Finding; fix: Fix; before: readonly Finding[] }
  )

/** `reason`: why the fix is not offered; null if it is. */
export type CheckAnswer =
  { kind: 'run' | 'browser'; result: CheckResult } | { kind: 'fix'; reason: string | null }

export interface Progress {
  done: number
  total: number
}
