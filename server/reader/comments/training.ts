/** Learns from the decisions on comments, for the spam score. Learning again takes turns with readers. */
import { setImmediate } from 'node:timers/promises'
import {
  learn,
  spamScore,
  strongestWords,
  untrained,
  wordsOf,
  type Decision,
  type ScoredText,
  type WordWeight,
} from '../../../core/comments/classifier.ts'
import type { Queryable } from '../../store/connection.ts'

/** Scores comments by the decisions on this blog. */
export interface ScorePort {
  /** @returns the probability of spam, or null with too few decisions */
  spamScore(words: readonly string[]): number | null
}

/** Decisions of each kind that are learned from: the latest. */
const MOST = 2_000
/** Comments that are learned from at once. */
const SLICE = 10
/** How long to wait before learning again, in milliseconds; longer if it has taken long, so that it stays a small load. */
const PAUSE = 2_000
const LOAD = 20

export class CommentTraining {
  readonly #pool: Queryable
  #training = untrained()
  #first: Promise<void> | undefined
  #isScheduled = false
  #took = 0

  constructor(pool: Queryable) {
    this.#pool = pool
  }

  /** Returns null with too few decisions, and until the first learning is done. */
  score(words: readonly string[]): number | null {
    void this.ready().catch(() => undefined)
    return spamScore(this.#training, words)
  }

  /** Resolves once there is a training. It may lack the decisions of the last seconds. */
  ready(): Promise<void> {
    this.#first ??= this.#learn().catch((error: unknown) => {
      // The next caller tries again.
      this.#first = undefined
      throw error
    })
    return this.#first
  }

  async strongest(comment: ScoredText): Promise<{ decisions: number; words: WordWeight[] }> {
    await this.ready()
    const { comments } = this.#training
    return {
      decisions: comments.spam + comments.shown,
      words: this.strongestOf(wordsOf(comment)),
    }
  }

  /** Returns the words that decide most, by what has been learned so far. */
  strongestOf(words: readonly string[]): WordWeight[] {
    return strongestWords(this.#training, words)
  }

  /** Learns again soon, because comments have changed. What was never needed is not learned. */
  schedule(): void {
    if (this.#isScheduled || !this.#first) return
    this.#isScheduled = true
    setTimeout(
      () => {
        this.#isScheduled = false
        // Without the database, what was learned before still counts. The next change tries again.
        this.#learn().catch(() => undefined)
      },
      Math.max(PAUSE, LOAD * this.#took),
    ).unref()
  }

  async #learn(): Promise<void> {
    const began = performance.now()
    const training = untrained()
    for (const decision of ['spam', 'shown'] as const satisfies Decision[]) {
      const { rows } = await this.#pool.query<ScoredText>({
        name: 'comment training',
        text: `SELECT name, site, text FROM comment WHERE state = $1 AND NOT by_author ORDER BY created_at DESC, id DESC LIMIT ${MOST}`,
        values: [decision],
      })
      for (const [index, one] of rows.entries()) {
        learn(training, decision, wordsOf(one))
        if (index % SLICE === SLICE - 1) await setImmediate()
      }
    }
    this.#training = training
    this.#took = performance.now() - began
  }
}
