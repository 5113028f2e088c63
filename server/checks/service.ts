/** When checks run, and what they found last. */
import type { CheckResult } from '../../core/checks/run.ts'
import { runRules } from '../../core/checks/run.ts'
import { RULES } from '../../core/checks/rules/all.ts'
import type { Blog } from '../reader/blog.ts'
import { loadDocuments } from '../publish/documents.ts'
import { SetAsideEntity } from '../store/entities/history.ts'
import { RouteAnalyst } from '../jobs/analysis.ts'
import { collectFacts } from './facts.ts'

/** A save is often followed by another: checks wait a moment for it. */
const AFTER_MILLISECONDS = 400

export interface CheckState extends CheckResult {
  /** Rules done of the run that is going on; null when none is. */
  running: { done: number; total: number } | null
  /** When the last complete run ended; null before the first. */
  finishedAt: Date | null
  milliseconds: number
}

export class Checks {
  readonly #blog: Blog
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
  /** The newest run; one at a time. */
  #last: { abort: AbortController; ended: Promise<void> } | undefined
  readonly #unwatch: () => void

  constructor(blog: Blog) {
    this.#blog = blog
    this.#unwatch = blog.watchChanges((source) => {
      // Readers' comments change no address and no page's fate.
      if (source !== 'comments') this.schedule()
    })
  }

  get state(): CheckState {
    return this.#state
  }

  /** Runs soon, in the background; a run that is going on is given up, for it looks at what was. */
  schedule(): void {
    clearTimeout(this.#timer)
    this.#last?.abort.abort(new Error('something changed'))
    // Whoever looks in the meantime sees that what was found is about to be found anew.
    this.#state = { ...this.#state, running: { done: 0, total: RULES.length } }
    this.#timer = setTimeout(() => void this.run().catch(() => undefined), AFTER_MILLISECONDS).unref()
  }

  /** Runs now. @returns what the newest run found, once it has ended: an older one is given up for it */
  async run(): Promise<CheckState> {
    clearTimeout(this.#timer)
    const before = this.#last
    before?.abort.abort(new Error('a newer run began'))
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
      const facts = collectFacts({ blog: this.#blog, site, documents, analyst: this.#analyst, signal })
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
      // Given up: the run that takes its place says how it goes.
      if (signal.aborted) return
      this.#state = { ...this.#state, running: null }
      this.#blog.log.error({ error: error instanceof Error ? error.message : String(error) }, 'checks failed')
    }
  }

  async stop(): Promise<void> {
    this.#unwatch()
    clearTimeout(this.#timer)
    this.#last?.abort.abort(new Error('stopping'))
    await this.#last?.ended
    await this.#analyst.stop()
  }

  async setAside(): Promise<Map<string, { reason: string; at: Date }>> {
    const rows = await this.#blog.database.getRepository(SetAsideEntity).find()
    return new Map(rows.map(({ rule, subject, reason, at }) => [asideKey(rule, subject), { reason, at }]))
  }

  async putAside(rule: string, subject: string, reason: string): Promise<void> {
    await this.#blog.database
      .getRepository(SetAsideEntity)
      .upsert({ rule, subject, reason }, ['rule', 'subject'])
  }

  async takeUp(rule: string, subject: string): Promise<void> {
    await this.#blog.database.getRepository(SetAsideEntity).delete({ rule, subject })
  }
}

export const asideKey = (rule: string, subject: string) => `${rule} ${subject}`
