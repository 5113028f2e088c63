/** Opens the blog of a database, and serves its readers. */
import type { BlockList } from 'node:net'
import type { DataSource } from 'typeorm'
import { success, type Outcome } from '../../core/shapes/outcome.ts'
import type { Log } from '../publish/ports.ts'
import { loadSite } from '../publish/documents.ts'
import { RedisCopies } from '../shared-copies/redis-copies.ts'
import { Writing } from '../shared-copies/written.ts'
import { Blog } from '../reader/blog.ts'
import { blogListener } from '../reader/listener.ts'
import { storedCursorKey } from '../reader/secret.ts'
import { listen, type Listening } from './listen.ts'

/** A person with a browser needs far less; a program that reads everything gets 429 now and then, and waits. */
const READER_LIMITS = { perSecond: 50, burst: 500 }

export interface OpenBlog {
  blog: Blog
  /** Ends what runs beside requests. */
  close(): Promise<void>
}

/** Returns the blog of a database, which follows what other processes change; problems of its definition otherwise. */
export async function openBlog(
  database: DataSource,
  log: Log,
  { replicas = [], redisUrl = null }: { replicas?: readonly string[]; redisUrl?: string | null } = {},
): Promise<Outcome<OpenBlog>> {
  const site = await loadSite(database)
  if (!site.ok) return site
  const cursorKey = await storedCursorKey(database)
  const blog = new Blog({
    database,
    site: site.value,
    log,
    replicas,
    cursorKey,
    ...(redisUrl === null ? {} : { sharedCopies: RedisCopies.open(redisUrl, new Writing(cursorKey), log) }),
  })
  const endFollowing = await blog.follow()
  const endRenewals = blog.keepRenewed()
  const close = async () => {
    await Promise.all([endRenewals(), endFollowing(), blog.stop()])
  }
  return success({ blog, close })
}

/** The names under which the computer itself reaches a listener. */
export const namesOf = (host: string): string[] => [...new Set([host, '127.0.0.1', 'localhost', '[::1]'])]

export async function serveReaders(
  blog: Blog,
  {
    host,
    port,
    proxies,
    say,
  }: {
    host: string
    port: number
    proxies: BlockList | undefined
    /** Told if another port is used; undefined if none may be. */
    say: ((line: string) => void) | undefined
  },
): Promise<Listening> {
  const listening = await listen(blogListener(blog, { limits: READER_LIMITS, proxies }), host, port, say)
  addOrigins(blog, host, listening.port)
  return listening
}

/** Lets the blog know under which origins its forms are sent. */
export function addOrigins(blog: Blog, host: string, port: number): void {
  for (const name of namesOf(host)) blog.origins.push(`http://${name}:${port}`)
}
