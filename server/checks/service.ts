/** Runs the checks after changes, and holds the result of the last run. */
import type { Finding, Fix } from '../../core/checks/finding.ts'
import type { CheckResult } from '../../core/checks/run.ts'
import { runRules } from '../../core/checks/run.ts'
import { RULES } from '../../core/checks/rules/all.ts'
import type { ChangePort } from '../publish/ports.ts'
import { loadDocuments } from '../publish/documents.ts'
import { DismissedFindingEntity } from '../store/entities/history.ts'
import { RouteAnalyst } from '../jobs/analysis.ts'
import { collectFacts } from './facts.ts'
import { whyNotOffered, type FixPorts } from './rehearse-fix.ts'

/** How long checks wait after a save, which is often followed by another, in milliseconds. */
const AFTER_MILLISECONDS = 400

export interface CheckState extends CheckResult {
  /** The progress of the current run; null if none is running. */
  running: { done: number; total: number } | null
  /** When the last complete run ended; null before the first. */
  finishedAt: Date | null
  milliseconds: number
}

type CheckPorts = FixPorts & ChangePort

/** The fixes of a finding that were tried: those that are offered, and those that are not, with the reason. */
export interface TriedFixes {
  offered: Fix[]
  rejected: { label: string; reason: string }[]
}

/** How long trying a fix may take, in milliseconds. */
const LONGEST_TRIAL = 20_000

export class Checks {
  readonly #blog: CheckPorts
  readonly #analyst = new RouteAnalyst()
  #state: CheckState = {
    findings: [],
    proven: [],
    runs: [],
    running: null,
    finishedAt: null,
    milliseconds: 0,
  }
  #timer: NodeJS.Timeout | undefined
  /** The latest run. Only one runs at a time. */
  #last: { abort: AbortController; ended: Promise<void> } | undefined
  readonly #unwatch: () => void
  /** The fixes of findings of the current result. */
  readonly #tried = new WeakMap<Finding, Promise<TriedFixes>>()
  #lastTrial: Promise<unknown> = Promise.resolve()
  readonly #stopping = new AbortController()

  constructor(blog: CheckPorts) {
    this.#blog = blog
    this.#unwatch = blog.watchChanges((source) => {
      // Comments change neither addresses nor listings that checks look at.
      if (source !== 'comments') this.schedule()
    })
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
    const { site } = this.#blog
    this.#state = { ...this.#state, running: { done: 0, total: RULES.length } }
    try {
      const documents = await loadDocuments(this.#blog.database)
      const facts = collectFacts({
        blog: this.#blog,
        manager: this.#blog.database.manager,
        site,
        documents,
        analyst: this.#analyst,
        signal,
      })
      const result = await runRules(RULES, facts, () => performance.now(), {
        signal,
        progress: (done) => (this.#state = { ...this.#state, running: { done, total: RULES.length } }),
      })
      this.#state = {
        ...result,
        running: null,
        finishedAt: this.#blog.clock(),
        milliseconds: performance.now() - began,
      }
    } catch (error) {
      // The run that replaces an aborted one reports the progress.
      if (signal.aborted) return
      this.#state = { ...this.#state, running: null }
      this.#blog.log.error({ error: error instanceof Error ? error.message : String(error) }, 'checks failed')
    }
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
      const signal = AbortSignal.any([this.#stopping.signal, AbortSignal.timeout(LONGEST_TRIAL)])
      const trial = { blog: this.#blog, analyst: this.#analyst, signal, before }
      const reason = await whyNotOffered(trial, finding, fix).catch((error: unknown) => {
        if (!signal.aborted) throw error
        return `Trying it took longer than ${LONGEST_TRIAL / 1_000} s.`
      })
      if (reason === null) tried.offered.push(fix)
      else tried.rejected.push({ label: fix.label, reason })
    }
    return tried
  }

  async stop(): Promise<void> {
    this.#stopping.abort(new Error('The checks are stopping.'))
    await this.#lastTrial
    this.#unwatch()
    clearTimeout(this.#timer)
    this.#last?.abort.abort(new Error('The checks are stopping.'))
    await this.#last?.ended
    await this.#analyst.stop()
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
