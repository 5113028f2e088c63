/** Runs one job at a time, which can be cancelled and waited for. */
export class SingleJob {
  #running: { abort: AbortController; ended: Promise<void> } | undefined

  get isRunning(): boolean {
    return this.#running !== undefined
  }

  /**
   * Starts a job, unless one is running.
   * @param failed called with the message of an error; `isCancelled`: because the job was cancelled
   * @returns whether it was started
   */
  start(
    job: (signal: AbortSignal) => Promise<void>,
    failed: (message: string, isCancelled: boolean) => void,
  ): boolean {
    if (this.#running) return false
    const abort = new AbortController()
    const ended = job(abort.signal)
      .catch((error: unknown) => {
        const isCancelled = abort.signal.aborted
        failed(
          isCancelled ? 'Cancelled.' : error instanceof Error ? error.message : String(error),
          isCancelled,
        )
      })
      .finally(() => (this.#running = undefined))
    this.#running = { abort, ended }
    return true
  }

  /** Cancels the job and waits until it has ended. @returns whether one was running */
  async cancel(): Promise<boolean> {
    const running = this.#running
    if (!running) return false
    running.abort.abort(new Error('Cancelled.'))
    await running.ended
    return true
  }

  /** Waits for the job, if one is running. */
  async ended(): Promise<void> {
    await this.#running?.ended
  }
}
