/** Serves readers: from this process, or from several others. */
import type { BlockList } from 'node:net'
import { copiesOfOne, type CopiesPort } from '../reader/copies.ts'
import type { Blog } from '../reader/blog.ts'
import { urlOf } from '../store/connection.ts'
import { ReaderProcesses } from './reader-processes.ts'
import { addOrigins, serveReaders } from './serve-blog.ts'

export interface ServedReaders {
  origin: string
  port: number
  copies: CopiesPort
  /** The ids of the processes; none if this one serves readers itself. */
  processes(): number[]
  close(): Promise<void>
}

export interface ServingOptions {
  /** How many processes serve readers. With 1, this one does. */
  count: number
  host: string
  port: number
  replicas: readonly string[]
  redisUrl?: string | null
  proxies: BlockList | undefined
  /** The same, as it was given. */
  trustedProxies: string
  /** The port of the built-in edge cache, from which forms are accepted. */
  edgePort?: number | null
  say(line: string): void
}

export async function serveAll(blog: Blog, options: ServingOptions): Promise<ServedReaders> {
  const {
    count,
    host,
    port,
    replicas,
    redisUrl = null,
    proxies,
    trustedProxies,
    edgePort = null,
    say,
  } = options
  // The blog’s own port comes first: without an origin in blog.yaml, links in feeds and e-mails lead to it.
  const addEdge = () => {
    if (edgePort !== null) addOrigins(blog, host, edgePort)
  }
  if (count === 1) {
    const { close, ...listening } = await serveReaders(blog, { host, port, proxies, say })
    addEdge()
    return { ...listening, copies: copiesOfOne(blog), processes: () => [], close }
  }
  const { database, log, traffic, commentService } = blog
  const readers = new ReaderProcesses({
    count,
    start: {
      databaseUrl: urlOf(database),
      replicas,
      redisUrl,
      host,
      port,
      trustedProxies,
      edgePort,
      commentService,
    },
    log,
    traffic,
  })
  try {
    const { moved, ...listening } = await readers.start()
    for (const line of moved) say(line)
    // For forms that a walk sends.
    addOrigins(blog, host, listening.port)
    addEdge()
    return {
      ...listening,
      copies: readers.copies,
      processes: () => readers.processes,
      close: () => readers.stop(),
    }
  } catch (error) {
    await readers.stop()
    throw error
  }
}
