/** Threads of comments by site and identifier, kept in a file. */
import { randomUUID } from 'node:crypto'
import { existsSync, mkdirSync, readFileSync } from 'node:fs'
import { rename, writeFile } from 'node:fs/promises'
import { dirname } from 'node:path'

export const STATES = ['shown', 'waiting', 'spam', 'deleted'] as const
export type State = (typeof STATES)[number]

export interface ThreadComment {
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
const MOST = 20_000

export class Threads {
  readonly #file: string
  readonly #comments = new Map<string, ThreadComment>()
  #saving: Promise<void> = Promise.resolve()

  constructor(file: string) {
    this.#file = file
    mkdirSync(dirname(file), { recursive: true, mode: 0o700 })
    if (existsSync(file))
      for (const one of JSON.parse(readFileSync(file, 'utf8')) as ThreadComment[])
        this.#comments.set(one.key, one)
  }

  /** The comments of a thread in the order in which they were written. */
  thread(site: string, thread: string, states: readonly State[] = ['shown']): ThreadComment[] {
    return this.all(site).filter((one) => one.thread === thread && states.includes(one.state))
  }

  all(site: string): ThreadComment[] {
    return [...this.#comments.values()]
      .filter((one) => one.site === site)
      .sort((a, b) => a.at.localeCompare(b.at) || a.key.localeCompare(b.key))
  }

  /** @returns undefined if there is no room */
  async add(comment: Omit<ThreadComment, 'key' | 'at'>): Promise<ThreadComment | undefined> {
    if (this.#comments.size >= MOST) return undefined
    const added = { ...comment, key: randomUUID(), at: new Date().toISOString() }
    this.#comments.set(added.key, added)
    await this.#save()
    return added
  }

  /** Adds comments that are not known yet. @returns how many; undefined if there is no room */
  async import(comments: readonly ThreadComment[]): Promise<number | undefined> {
    const fresh = comments.filter((one) => !this.#comments.has(one.key))
    if (this.#comments.size + fresh.length > MOST) return undefined
    for (const one of fresh) this.#comments.set(one.key, one)
    if (fresh.length > 0) await this.#save()
    return fresh.length
  }

  /** @returns false if there is no such comment */
  async moderate(site: string, key: string, state: State): Promise<boolean> {
    const found = this.#comments.get(key)
    if (found?.site !== site) return false
    this.#comments.set(key, { ...found, state })
    await this.#save()
    return true
  }

  /** Replaces the file once it is complete; saves one after the other. */
  #save(): Promise<void> {
    const next = this.#saving
      .catch(() => undefined)
      .then(async () => {
        const unfinished = `${this.#file}.new`
        await writeFile(unfinished, JSON.stringify([...this.#comments.values()]), { mode: 0o600 })
        await rename(unfinished, this.#file)
      })
    this.#saving = next
    return next
  }
}
