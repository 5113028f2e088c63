/**
 * Threads of comments by site and identifier. Each change appends a line to a file, so the cost of a comment does not grow
 * with the number of comments. A later line of the same comment replaces the earlier one.
 */
import { existsSync, mkdirSync, readFileSync, truncateSync } from 'node:fs'
import { appendFile } from 'node:fs/promises'
import { dirname } from 'node:path'

export const STATES = ['shown', 'waiting', 'spam', 'deleted'] as const
export type State = (typeof STATES)[number]

export interface ThreadComment {
  /** Unique at the service. */
  key: string
  site: string
  thread: string
  parent: string | null
  name: string
  text: string
  /** RFC 3339. */
  at: string
  state: State
}

/** Comments of all sites. */
const MOST = 200_000

export class Threads {
  readonly #file: string
  /** By key, in the order in which they were added. */
  readonly #comments = new Map<string, ThreadComment>()
  /** The keys of each thread, by site and identifier. */
  readonly #threads = new Map<string, Set<string>>()
  /** The keys of each site. */
  readonly #sites = new Map<string, string[]>()
  #written: Promise<void> = Promise.resolve()

  /** @param file its lines are comments as JSON */
  constructor(file: string) {
    this.#file = file
    mkdirSync(dirname(file), { recursive: true, mode: 0o700 })
    if (!existsSync(file)) return
    const text = readFileSync(file, 'utf8')
    // A line that was cut off belongs to a comment that was never acknowledged.
    const complete = text.slice(0, text.lastIndexOf('\n') + 1)
    for (const line of complete.split('\n')) if (line !== '') this.#set(JSON.parse(line) as ThreadComment)
    if (complete !== text) truncateSync(file, Buffer.byteLength(complete))
  }

  /**
   * Returns the latest shown comments of a thread, oldest first.
   * @param limit the maximum number
   */
  thread(site: string, thread: string, limit: number): { comments: ThreadComment[]; total: number } {
    const keys = this.#threads.get(threadKey({ site, thread })) ?? []
    const shown = [...keys]
      .flatMap((key) => this.#comments.get(key) ?? [])
      .filter((one) => one.state === 'shown')
    shown.sort((a, b) => a.at.localeCompare(b.at))
    return { comments: shown.slice(-limit), total: shown.length }
  }

  /**
   * Returns comments of a site in every state, in the order in which they were added.
   * @param from the position of the first
   */
  list(site: string, from: number, limit: number): { comments: ThreadComment[]; total: number } {
    const keys = this.#sites.get(site) ?? []
    return {
      comments: keys.slice(from, from + limit).flatMap((key) => this.#comments.get(key) ?? []),
      total: keys.length,
    }
  }

  /** Adds comments that are not stored yet. @returns the number of added comments; undefined if the site is full */
  async add(comments: readonly ThreadComment[]): Promise<number | undefined> {
    const fresh = comments.filter((one) => !this.#comments.has(one.key))
    if (this.#comments.size + fresh.length > MOST) return undefined
    await this.#write(fresh)
    return fresh.length
  }

  /** @returns false if there is no such comment */
  async moderate(site: string, key: string, state: State): Promise<boolean> {
    const found = this.#comments.get(key)
    if (found?.site !== site) return false
    await this.#write([{ ...found, state }])
    return true
  }

  #set(comment: ThreadComment): void {
    const { key, site } = comment
    if (!this.#comments.has(key)) {
      const thread = threadKey(comment)
      this.#threads.set(thread, (this.#threads.get(thread) ?? new Set()).add(key))
      const keys = this.#sites.get(site) ?? []
      this.#sites.set(site, keys)
      keys.push(key)
    }
    this.#comments.set(key, comment)
  }

  /** Appends lines. Writes are sequential. */
  #write(comments: readonly ThreadComment[]): Promise<void> {
    for (const one of comments) this.#set(one)
    const lines = comments.map((one) => `${JSON.stringify(one)}\n`).join('')
    const next = this.#written
      .catch(() => undefined)
      .then(() => appendFile(this.#file, lines, { mode: 0o600 }))
    this.#written = next
    return next
  }
}

const threadKey = ({ site, thread }: { site: string; thread: string }) => `${site}\n${thread}`
