/** Gives readers turns, so that one address, or many that mostly cause errors, cannot delay the others. */
import { LRUCache } from 'lru-cache'
import pLimit, { type LimitFunction } from 'p-limit'
import { networkOf } from '../comments/visitor.ts'
import { LOOPBACK, REMEMBERED } from './reader-rates.ts'

/** Requests of one address that are answered at the same time, which is also the number of connections of a browser. */
const AT_ONCE = 6
/** Requests that are answered at the same time for all addresses together that have caused too many errors. */
const SLOW_AT_ONCE = 4
/** Errors of an address within a minute, after which its requests take turns with those of other such addresses. */
const MOST_ERRORS = 3
const WINDOW = 60_000
/** Forms that are answered at the same time, for all addresses together. Each has arrived before its turn. */
const FORMS_AT_ONCE = 8
/** With more requests that wait or are answered, pages for missing addresses do without their data. */
const BUSY = 24

export class ReaderTurns {
  readonly #turns = new LRUCache<string, LimitFunction>({ max: REMEMBERED })
  /** The number of errors of each address in the window, which starts with the first one. */
  readonly #errors = new LRUCache<string, number>({ max: REMEMBERED, ttl: WINDOW, noUpdateTTL: true })
  readonly #slow = pLimit(SLOW_AT_ONCE)
  readonly #forms = pLimit(FORMS_AT_ONCE)
  #running = 0

  /** Whether so many requests wait or are answered that decoration is left out. */
  get isBusy(): boolean {
    return this.#running > BUSY
  }

  /**
   * Answers a request when it is the turn of its address. Programs on this machine never wait, because one of them may be
   * a proxy that is not configured.
   */
  async run(client: string, isForm: boolean, answer: () => Promise<Response>): Promise<Response> {
    this.#running++
    try {
      return await this.#inTurn(client, isForm ? () => this.#forms(answer) : answer)
    } finally {
      this.#running--
    }
  }

  async #inTurn(client: string, answer: () => Promise<Response>): Promise<Response> {
    if (LOOPBACK.test(client)) return await answer()
    const network = networkOf(client)
    const known = this.#turns.get(network)
    const turn = known ?? pLimit(AT_ONCE)
    if (!known) this.#turns.set(network, turn)
    return await turn(async () => {
      const isSlow = (this.#errors.get(network) ?? 0) >= MOST_ERRORS
      const response = await (isSlow ? this.#slow(answer) : answer())
      if (response.status >= 400 && response.status < 500)
        this.#errors.set(network, (this.#errors.get(network) ?? 0) + 1)
      return response
    })
  }
}
