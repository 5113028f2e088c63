/** Runs the checks in a worker thread, on request and after changes, and holds the result of the last run. */
import type { Finding, Fix } from '../../core/checks/finding.ts'
import type { CheckResult } from '../../core/checks/run.ts'
import { RULES } from '../../core/checks/rules/all.ts'
import { PATIENCE, Thread, ThreadStopped } from '../jobs/thread.ts'
import type {
  ChangePort,
  ClockPort,
  CommentServicePort,
  CursorKeyPort,
  DatabasePort,
  LogPort,
  OriginsPort,
} from '../publish/ports.ts'
import type { NotFoundPort } from '../reader/ports.ts'
import { urlOf } from '../store/connection.ts'
import { DismissedFindingEntity } from '../store/entities/history.ts'
import type { Counted } from './copy-facts.ts'
import { BrowserChecks } from './browser-checks.ts'
import type { CheckAnswer, CheckedBlog, CheckQuestion, Progress } from './questions.ts'

/** How long checks wait after a save, which is often followed by another, in milliseconds. */
const AFTER_MILLISECONDS = 400

export interface CheckState extends CheckResult {
  /** The progress of the current run; null if none is running. */
  running: { done: number; total: number } | null
  /** When the last complete run ended; null before the first. */
  finishedAt: Date | null
  milliseconds: number
}

type CheckPorts = DatabasePort &
  ChangePort &
  ClockPort &
  CommentServicePort &
  CursorKeyPort &
  LogPort &
  NotFoundPort &
  OriginsPort

/** The fixes of a finding that were tried: those that are offered, and those that are not, with the reason. */
export interface TriedFixes {
  offered: Fix[]
  rejected: { label: string; reason: string }[]
}

/** How long trying a fix may take, in milliseconds. */
const LONGEST_TRIAL = 120_000
/** Memory of the thread, in megabytes. */
const MEMORY = 1_024

const NOTHING: CheckResult = { findings: [], proven: [], runs: [] }

export class Checks {
  readonly #blog: CheckPorts
  readonly #counted: () => Promise<Counted>
  readonly #thread = new Thread<CheckQuestion, CheckAnswer, Progress>('check-thread', MEMORY)
  #state: CheckState = { ...NOTHING, running: null, finishedAt: null, milliseconds: 0 }
  #timer: NodeJS.Timeout | undefined
  /** The latest run. Only one runs at a time. */
  #last: { abort: AbortController; ended: Promise<void> } | undefined
  #unwatch: () => void = () => undefined
  /** The fixes of findings of the current result. */
  readonly #tried = new WeakMap<Finding, Promise<TriedFixes>>()
  #lastTrial: Promise<unknown> = Promise.resolve()
  readonly #stopping = new AbortController()
  /** The checks that need a browser. */
  readonly browser: BrowserChecks

  /** @param counted returns how often copies were stored and used in the last hour, in all processes */
  constructor(blog: CheckPorts, counted: () => Promise<Counted> = () => Promise.resolve({})) {
    this.#blog = blog
    this.#counted = counted
    this.browser = new BrowserChecks(blog, () => this.#checked(), MEMORY)
  }

  /** Runs in the background, now and after each change. */
  follow(): void {
    this.#unwatch = this.#blog.watchChanges((source) => {
      // Comments change neither addresses nor listings that checks look at.
      if (source === 'comments') return
      this.browser.changed()
      this.schedule()
    })
    this.schedule()
  }

  get state(): CheckState {
    return this.#state
  }

  /** Schedules a run in the background, and aborts the current one, which checks an outdated state. */
  schedule(): void {
    clearTimeout(this.#timer)
    this.#last?.abort.abort(new Error('Something has changed.'))
    // The state says at once that the findings are outdated.
    this.#state = { ...this.#state, running: { done: 0, total: RULES.length } }
    this.#timer = setTimeout(() => void this.run().catch(() => undefined), AFTER_MILLISECONDS).unref()
  }

  /** Runs now, and returns the result of the latest run. An earlier run is aborted. */
  async run(): Promise<CheckState> {
    clearTimeout(this.#timer)
    const before = this.#last
    before?.abort.abort(new Error('A newer run has started.'))
    const abort = new AbortController()
    this.#last = { abort, ended: Promise.resolve(before?.ended).then(() => this.#run(abort.signal)) }
    for (let awaited; awaited !== this.#last;) {
      awaited = this.#last
      await awaited.ended
    }
    return this.#state
  }

  async #run(signal: AbortSignal): Promise<void> {
    if (signal.aborted) return
    const began = performance.now()
    const report = (running: Progress) => (this.#state = { ...this.#state, running })
    report({ done: 0, total: RULES.length })
    try {
      await this.#blog.notFound.flush()
      const answer = await this.#thread.ask(
        { kind: 'run', ...(await this.#checked()) },
        { signal, progress: report },
      )
      if (answer.kind !== 'run') throw new Error('The thread has answered another question.')
      this.#state = {
        ...answer.result,
        running: null,
        finishedAt: this.#blog.clock(),
        milliseconds: performance.now() - began,
      }
    } catch (error) {
      // The run that replaces an aborted one reports the progress.
      if (signal.aborted) return
      const message = error instanceof Error ? error.message : String(error)
      this.#blog.log.error({ error: message }, 'checks failed')
      // What an earlier run has found says nothing about the blog as it is now.
      const runs = RULES.map(({ id }) => ({ rule: id, milliseconds: 0, failed: message }))
      this.#state = { ...this.#state, ...NOTHING, runs, running: null }
    }
  }

  async #checked(): Promise<CheckedBlog> {
    const { database, cursorKey, clock, origins, commentService } = this.#blog
    const counted = await this.#counted()
    return { url: urlOf(database), cursorKey, now: clock(), origins, commentService, counted }
  }

  /**
   * Tries the fixes of a finding on the blog as it would be with them. Each is tried once for the current result, one
   * after the other.
   * @returns undefined if there is no such finding
   */
  async fixesOf(rule: string, subject: string): Promise<TriedFixes | undefined> {
    const { findings } = this.#state
    const finding = findings.find((one) => one.rule === rule && one.subject === subject)
    if (!finding) return undefined
    const known = this.#tried.get(finding)
    if (known) return await known
    const trying = this.#lastTrial.then(() => this.#tryFixes(finding, findings))
    this.#lastTrial = trying.catch(() => undefined)
    this.#tried.set(finding, trying)
    // What failed is tried again when it is requested again.
    trying.catch(() => this.#tried.delete(finding))
    return await trying
  }

  async #tryFixes(finding: Finding, before: readonly Finding[]): Promise<TriedFixes> {
    const tried: TriedFixes = { offered: [], rejected: [] }
    for (const fix of finding.fixes) {
      const reason = await this.#tryFix({ kind: 'fix', ...(await this.#checked()), finding, fix, before })
      if (reason === null) tried.offered.push(fix)
      else tried.rejected.push({ label: fix.label, reason })
    }
    return tried
  }

  async #tryFix(question: CheckQuestion): Promise<string | null> {
    try {
      const asking = { signal: this.#stopping.signal, longest: LONGEST_TRIAL, patience: PATIENCE }
      const answer = await this.#thread.ask(question, asking)
      return answer.kind === 'fix' ? answer.reason : 'The thread has answered another question.'
    } catch (error) {
      if (error instanceof ThreadStopped) return `Trying it was stopped. ${error.message}`
      throw error
    }
  }

  async stop(): Promise<void> {
    const reason = new Error('The checks are stopping.')
    this.#stopping.abort(reason)
    this.#unwatch()
    clearTimeout(this.#timer)
    this.#last?.abort.abort(reason)
    await Promise.all([this.#thread.stop(), this.browser.stop()])
    await this.#lastTrial
    await this.#last?.ended
  }

  /** Returns the dismissed findings. */
  async dismissed(): Promise<Map<string, { reason: string; at: Date }>> {
    const rows = await this.#blog.database.getRepository(DismissedFindingEntity).find()
    return new Map(rows.map(({ rule, subject, reason, at }) => [findingKey(rule, subject), { reason, at }]))
  }

  async dismiss(rule: string, subject: string, reason: string): Promise<void> {
    await this.#blog.database
      .getRepository(DismissedFindingEntity)
      .upsert({ rule, subject, reason }, ['rule', 'subject'])
  }

  async reopen(rule: string, subject: string): Promise<void> {
    await this.#blog.database.getRepository(DismissedFindingEntity).delete({ rule, subject })
  }
}

export const findingKey = (rule: string, subject: string) => `${rule} ${subject}`
