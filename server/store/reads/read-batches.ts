/** Collects the statements that are run at the same moment, such as those of one page, and sends them together. */
import { LRUCache } from 'lru-cache'
import pg, { type Pool } from 'pg'
import { StatementBatch, UnreadableValue, type Statement, type Row } from './statement-batch.ts'

/** Statements that are sent together, at most. */
const MOST = 8

/**
 * The statements of a batch run one after the other, so a slow one is sent alone, in parallel with others. A statement is
 * quick if it took at most this long when it was last timed, in milliseconds.
 */
const QUICK = 10

/** How often a statement runs between two times that it is timed. */
const UNTIMED_RUNS = 64

/** Returns the milliseconds since the batch has started, by the clock of the server. */
const CLOCK: Statement = {
  text: 'SELECT extract(epoch FROM clock_timestamp() - now()) * 1000 AS elapsed',
  values: [],
}

interface Waiting {
  statement: Statement
  resolve(rows: Row[] | undefined): void
  reject(error: unknown): void
}

interface Timed {
  milliseconds: number
  runsSince: number
}

/** Decides whether the statements that an error has left without a result are run again. */
export type JudgeError = (error: unknown) => 'final' | 'run-again'

export class ReadBatches {
  /** Returns the connections for the next batch, and what to do after an error on them. */
  readonly #choose: () => { pool: Pool; judge: JudgeError }
  #waiting: Waiting[] = []
  readonly #times = new LRUCache<string, Timed>({ max: 1_000 })

  constructor(choose: () => { pool: Pool; judge: JudgeError }) {
    this.#choose = choose
  }

  /**
   * Runs a statement that only reads, together with others of the same moment.
   * @returns undefined if it must be run again, without others
   */
  run(statement: Statement): Promise<Row[] | undefined> {
    return new Promise((resolve, reject) => {
      this.#waiting.push({ statement, resolve, reject })
      // After everything that can run now, which may run further statements.
      if (this.#waiting.length === 1) process.nextTick(() => this.#sendAll())
    })
  }

  #sendAll(): void {
    const all = this.#waiting
    this.#waiting = []
    const quick: Waiting[] = []
    let isDue = false
    for (const one of all) {
      const known = this.#times.get(one.statement.text)
      if (!known || known.milliseconds > QUICK) void this.#send([one], true)
      else {
        isDue ||= known.runsSince++ >= UNTIMED_RUNS
        quick.push(one)
      }
    }
    for (let at = 0; at < quick.length; at += MOST) void this.#send(quick.slice(at, at + MOST), isDue)
  }

  async #send(some: readonly Waiting[], isTimed: boolean): Promise<void> {
    const { pool, judge } = this.#choose()
    const step = isTimed ? 2 : 1
    const batch = new StatementBatch(
      some.flatMap(({ statement }) => (isTimed ? [statement, CLOCK] : [statement])),
    )
    let failure: { error: unknown } | undefined
    try {
      await ran(pool, batch)
    } catch (error) {
      failure = { error }
    }
    const { results } = batch
    if (isTimed) this.#note(some, results)
    const judged = failure && judge(failure.error)
    // Other errors are those of the connection, and so of all statements without a result.
    const isOfOne = failure?.error instanceof pg.DatabaseError || failure?.error instanceof UnreadableValue
    for (const [index, { resolve, reject }] of some.entries()) {
      const rows = results[index * step]
      const isFailed = index * step === results.length || !isOfOne
      if (rows || judged === 'run-again' || !isFailed) resolve(rows)
      else reject(failure?.error)
    }
  }

  #note(some: readonly Waiting[], results: readonly Row[][]): void {
    let before = 0
    for (const [index, { statement }] of some.entries()) {
      const elapsed = results[2 * index + 1]?.[0]?.['elapsed']
      if (elapsed === undefined) return
      this.#times.set(statement.text, { milliseconds: Number(elapsed) - before, runsSince: 0 })
      before = Number(elapsed)
    }
  }
}

/** Runs a batch on a connection of a pool, which closes the connection after an error. */
const ran = (pool: Pool, batch: StatementBatch): Promise<void> =>
  // The types of pg know only queries that are streams.
  (pool.query as unknown as (one: StatementBatch) => Promise<void>).call(pool, batch)
