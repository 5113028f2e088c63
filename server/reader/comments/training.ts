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
const SLICE = 50
/** After a change, how long to wait for further ones, in milliseconds. */
const PAUSE = 2_000

export class CommentTraining {
  readonly #pool: Queryable
  #training = untrained()
  #learning: Promise<void> | undefined
  #isOutdated = true
  #isScheduled = false

  constructor(pool: Queryable) {
    this.#pool = pool
  }

  /** Returns null with too few decisions. */
  score(words: readonly string[]): number | null {
    if (this.#isOutdated) this.schedule(0)
    return spamScore(this.#training, words)
  }

  async strongest(comment: ScoredText): Promise<{ decisions: number; words: WordWeight[] }> {
    await this.learned()
    const { comments } = this.#training
    return {
      decisions: comments.spam + comments.shown,
      words: strongestWords(this.#training, wordsOf(comment)),
    }
  }

  /** Learns again soon, because comments have changed. */
  schedule(pause = PAUSE): void {
    this.#isOutdated = true
    if (this.#isScheduled) return
    this.#isScheduled = true
    setTimeout(() => {
      this.#isScheduled = false
      // What fails is learned the next time.
      this.learned().catch(() => undefined)
    }, pause).unref()
  }

  /** Resolves once all decisions up to now are learned. */
  async learned(): Promise<void> {
    await this.#learning
    if (!this.#isOutdated) return
    await (this.#learning ??= this.#learn().finally(() => (this.#learning = undefined)))
  }

  async #learn(): Promise<void> {
    this.#isOutdated = false
    const training = untrained()
    try {
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
    } catch (error) {
      this.#isOutdated = true
      throw error
    }
    this.#training = training
  }
}
