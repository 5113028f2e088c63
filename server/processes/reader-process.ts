/** One of the processes that serve readers. It is told what to do by the process of the workbench, and ends with it. */
import { readProxies } from '../reader/limits/reader-address.ts'
import { ownCopies, type CopyQuestions } from '../reader/copies.ts'
import { answer } from '../reader/answer.ts'
import { internalRequest } from '../reader/request.ts'
import type { TrafficEntry } from '../reader/traffic.ts'
import { openDatabase } from '../store/connection.ts'
import type { Log } from '../publish/ports.ts'
import type { FromReader, ReaderStart, ToReader } from './messages.ts'
import { addOrigins, openBlog, serveReaders } from './serve-blog.ts'

/** How often requests are reported, in milliseconds, and how many of each time at most: the latest. */
const REPORTED_EVERY = 250
const MOST_REPORTED = 200

const tell = (message: FromReader) => {
  if (process.connected) process.send?.(message)
}

const log: Log = {
  info: (details, message) => tell({ log: { level: 'info', details, message } }),
  error: (details, message) => tell({ log: { level: 'error', details, message } }),
}

interface Serving {
  questions: CopyQuestions
  stop(): Promise<void>
}

async function serve(start: ReaderStart): Promise<Serving> {
  const proxies = readProxies(start.trustedProxies)
  if ('invalid' in proxies) throw new Error('The proxies are not valid.')
  const database = await openDatabase(start.databaseUrl)
  const opened = await openBlog(database, log, start)
  if (!opened.ok) throw new Error(opened.problems?.[0]?.message ?? 'The stored definition is not valid.')
  const { blog, close } = opened.value
  blog.commentService = start.commentService
  await answer(blog, internalRequest('/'))
  const moved: string[] = []
  const listening = await serveReaders(blog, {
    host: start.host,
    port: start.port,
    proxies: proxies.proxies,
    say: start.mayMove ? (line) => moved.push(line) : undefined,
  })
  if (start.edgePort !== null) addOrigins(blog, start.host, start.edgePort)
  let entries: TrafficEntry[] = []
  blog.traffic.watch((entry) => {
    entries.push(entry)
    if (entries.length > MOST_REPORTED) entries.shift()
  })
  const reporting = setInterval(() => {
    if (entries.length > 0) tell({ traffic: entries })
    entries = []
  }, REPORTED_EVERY)
  tell({ ready: { origin: listening.origin, port: listening.port, moved } })
  return {
    questions: ownCopies(blog),
    stop: async () => {
      clearInterval(reporting)
      await listening.close()
      await close()
      await blog.notFound.flush().catch(() => undefined)
      await database.destroy()
    },
  }
}

let serving: Promise<Serving> | undefined

async function end(): Promise<void> {
  await serving?.then((one) => one.stop()).catch(() => undefined)
  process.exit(0)
}

function ask(questions: CopyQuestions, name: keyof CopyQuestions, words: readonly unknown[]): unknown {
  return (questions[name] as (...words: readonly unknown[]) => unknown)(...words)
}

process.on('message', (message: ToReader) => {
  if ('start' in message) {
    serving = serve(message.start)
    serving.catch((error: unknown) => {
      tell({ failed: error instanceof Error ? error.message : String(error) })
      process.exit(1)
    })
  } else if ('stop' in message) void end()
  else
    serving
      ?.then(async ({ questions }) =>
        tell({ id: message.id, answer: await ask(questions, message.ask, message.words) }),
      )
      .catch((error: unknown) => tell({ id: message.id, error: String(error) }))
})
tell({ loaded: true })
// A terminal sends its signals to all processes. The one of the workbench says when to stop.
for (const signal of ['SIGINT', 'SIGHUP'] as const) process.on(signal, () => undefined)
process.on('SIGTERM', () => void end())
process.on('disconnect', () => void end())
