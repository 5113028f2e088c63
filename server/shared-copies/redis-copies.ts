/**
 * Shared copies in Redis or Valkey. Readers wait for a command for 50 ms at most. After an error or a timeout, no command is
 * sent for a second.
 */
import { createRequire } from 'node:module'
import type { createClient } from 'redis'
import type { SharedCopies, SharedCopy } from '../../core/caching/shared-copies.ts'
import { inTime } from '../in-time.ts'
import type { Writing } from './written.ts'

/** The timeout of a command, and the pause after an error, in milliseconds. */
const LONGEST_CALL = 50
const PAUSE = 1_000
/** The timeout of deleting all copies, in milliseconds. It is shorter than that of a question to a process. */
const LONGEST_CLEARING = 2_000
/** The maximum size of a copy, in characters. */
const LARGEST = 2_000_000
const LONGEST_WAIT = 2_000

interface Log {
  error(details: object, message: string): void
}

/** Loads the client only if it is used: in the bundle of the server, it would slow down every start. */
const load = createRequire(import.meta.url)

const newClient = (url: string) =>
  (load('redis') as { createClient: typeof createClient }).createClient({
    url,
    // A command that cannot be sent now fails.
    disableOfflineQueue: true,
    commandsQueueMaxLength: 1_000,
    socket: {
      connectTimeout: LONGEST_WAIT,
      reconnectStrategy: (attempt) => Math.min(LONGEST_WAIT, 50 * 2 ** attempt),
    },
  })
type Client = ReturnType<typeof newClient>

export class RedisCopies implements SharedCopies {
  readonly #client: Client
  readonly #writing: Writing
  readonly #log: Log
  readonly #longest: number
  #pausedUntil = 0
  #isFailing = false

  private constructor(client: Client, writing: Writing, log: Log, longest: number) {
    this.#client = client
    this.#writing = writing
    this.#log = log
    this.#longest = longest
    // The client reconnects.
    client.on('error', (error: unknown) => this.#failed(error))
  }

  /**
   * Connects in the background.
   * @param url `redis://` or `rediss://`
   * @param longest the timeout of a command in milliseconds
   */
  static open(url: string, writing: Writing, log: Log, longest = LONGEST_CALL): RedisCopies {
    const client = newClient(url)
    const copies = new RedisCopies(client, writing, log, longest)
    client.connect().catch((error: unknown) => copies.#failed(error))
    return copies
  }

  get isAvailable(): boolean {
    return this.#client.isReady && performance.now() >= this.#pausedUntil
  }

  async take(key: string): Promise<{ shared: SharedCopy; age: number } | undefined> {
    const stored = this.#writing.keyOf(key)
    const answer = await this.#call(() => Promise.all([this.#client.get(stored), this.#client.pTTL(stored)]))
    const [text, left] = answer ?? []
    if (typeof text !== 'string' || left === undefined || left < 0) return undefined
    const found = this.#writing.read(key, text)
    // Redis measures the age, so clocks are not compared.
    return found && { shared: found.shared, age: Math.max(0, found.lifetime - left) }
  }

  async put(key: string, shared: SharedCopy, lifetime: number): Promise<boolean> {
    const text = this.#writing.write(key, shared, lifetime)
    if (text.length > LARGEST) return false
    const set = () => this.#client.set(this.#writing.keyOf(key), text, { PX: Math.ceil(lifetime) })
    return (await this.#call(set)) === 'OK'
  }

  async drop(key: string): Promise<void> {
    await this.#call(() => this.#client.unlink(this.#writing.keyOf(key)))
  }

  async clear(): Promise<void> {
    await this.#call(
      async () => {
        for await (const keys of this.#client.scanIterator({
          MATCH: `${this.#writing.prefix}*`,
          COUNT: 1_000,
        }))
          if (keys.length > 0) await this.#client.unlink(keys)
      },
      Math.max(LONGEST_CLEARING, this.#longest),
    )
  }

  async close(): Promise<void> {
    if (this.#client.isOpen) this.#client.destroy()
    await Promise.resolve()
  }

  async #call<T>(run: () => Promise<T>, longest = this.#longest): Promise<T | undefined> {
    if (!this.isAvailable) return undefined
    try {
      const result = await inTime(run, longest)
      this.#isFailing = false
      return result
    } catch (error) {
      this.#pausedUntil = performance.now() + PAUSE
      this.#failed(error)
      return undefined
    }
  }

  /** Logs the first error after a success. */
  #failed(error: unknown): void {
    if (!this.#isFailing)
      this.#log.error(
        { error: error instanceof Error ? error.message : String(error) },
        'Redis is not available, so shared copies are not used',
      )
    this.#isFailing = true
  }
}
