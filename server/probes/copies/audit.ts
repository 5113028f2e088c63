/** Compares the stored copies of all processes with what would be rendered now: a job with progress, and a result. */
import type { AuditReport } from '../../../contract/cache.ts'
import type { ClockPort, LogPort } from '../../publish/ports.ts'
import { SingleJob } from '../../jobs/single-job.ts'
import type { CopiesPort } from '../../reader/copies.ts'

/** How many addresses are compared between two reports of progress. */
const BATCH = 10

export class CopyAudit {
  readonly #copies: CopiesPort
  readonly #ports: ClockPort & LogPort
  readonly #job = new SingleJob()
  #report: AuditReport = { state: 'none' }

  constructor(copies: CopiesPort, ports: ClockPort & LogPort) {
    this.#copies = copies
    this.#ports = ports
  }

  get report(): AuditReport {
    return this.#report
  }

  /** Starts an audit. @returns false if one is running */
  start(): boolean {
    if (this.#job.isRunning) return false
    this.#report = { state: 'running', done: 0, of: 0 }
    return this.#job.start(
      (signal) => this.#run(signal),
      (message, isCancelled) => {
        this.#report = { state: 'failed', message }
        if (!isCancelled) this.#ports.log.error({ error: message }, 'the audit of copies failed')
      },
    )
  }

  cancel(): Promise<boolean> {
    return this.#job.cancel()
  }

  async #run(signal: AbortSignal): Promise<void> {
    const all = await this.#copies.copies()
    const addresses = [...new Set(all.flatMap((one) => one.copies.flatMap(({ address }) => address ?? [])))]
    const stored = all.reduce((sum, one) => sum + one.copies.length, 0)
    const result = { stored, compared: 0, same: 0, byAge: 0, different: [] as AuditedCopies }
    for (let at = 0; at < addresses.length; at += BATCH) {
      const compared = await this.#copies.compare(addresses.slice(at, at + BATCH))
      signal.throwIfAborted()
      for (const one of compared) {
        result.compared += one.compared
        result.same += one.same
        result.byAge += one.byAge
        result.different.push(...one.different)
      }
      this.#report = { state: 'running', done: Math.min(at + BATCH, addresses.length), of: addresses.length }
    }
    this.#report = {
      state: 'done',
      at: this.#ports.clock().toISOString(),
      addresses: addresses.length,
      ...result,
    }
  }
}

type AuditedCopies = Extract<AuditReport, { state: 'done' }>['different']
