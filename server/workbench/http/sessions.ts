/**
 * The sessions of signed-in browsers. A session is a cookie and a secret: the cookie is also sent to other programs on
 * this machine, since browsers ignore ports, so it is worth nothing without the secret, which only the script of this
 * origin holds.
 */
import { createHash, randomBytes, timingSafeEqual } from 'node:crypto'
import { LRUCache } from 'lru-cache'
import { LessThan, type DataSource } from 'typeorm'
import { WorkbenchSessionEntity } from '../../store/entities/history.ts'

export interface NewSession {
  /** The value of the cookie. */
  cookie: string
  /** What the script sends with every request. */
  secret: string
}

/** Sessions end after this time without a request, in milliseconds. */
const IDLE = 90 * 86_400_000
/** How often it is noted that a session is used, in milliseconds. */
const NOTED = 60_000

const hash = (text: string) => createHash('sha256').update(text).digest('base64url')
const same = (a: string, b: string) => timingSafeEqual(Buffer.from(a), Buffer.from(b))
const random = () => randomBytes(32).toString('base64url')

export class Sessions {
  readonly #database: DataSource
  /** Those that were used lately, so that requests need no query. */
  readonly #known = new LRUCache<string, WorkbenchSessionEntity>({ max: 1_000 })

  constructor(database: DataSource) {
    this.#database = database
  }

  get #rows() {
    return this.#database.getRepository(WorkbenchSessionEntity)
  }

  /** @param browser its `User-Agent` */
  async open(browser: string): Promise<NewSession> {
    const made = { cookie: random(), secret: random() }
    await this.#rows.delete({ seenAt: LessThan(new Date(Date.now() - IDLE)) })
    await this.#rows.insert({
      id: hash(made.cookie),
      secret: hash(made.secret),
      browser: browser.slice(0, 300),
      createdAt: new Date(),
      seenAt: new Date(),
    })
    return made
  }

  /** @returns the id of the session; undefined unless cookie and secret belong together */
  async find(cookie: string, secret: string): Promise<string | undefined> {
    const id = hash(cookie)
    const found = this.#known.get(id) ?? (await this.#rows.findOneBy({ id }))
    const now = Date.now()
    if (!found || !same(found.secret, hash(secret)) || now - found.seenAt.getTime() > IDLE) return undefined
    if (now - found.seenAt.getTime() > NOTED) {
      found.seenAt = new Date(now)
      await this.#rows.update({ id }, { seenAt: found.seenAt })
    }
    this.#known.set(id, found)
    return id
  }

  /** Returns all sessions, the latest first. */
  async list(): Promise<WorkbenchSessionEntity[]> {
    return await this.#rows.find({ order: { seenAt: 'DESC' } })
  }

  /** Ends a session. @returns whether there was one */
  async end(id: string): Promise<boolean> {
    this.#known.delete(id)
    return ((await this.#rows.delete({ id })).affected ?? 0) > 0
  }
}
