/** Starts and stops Esquina with a copy of the demo, on messages of a worker of the browser tests. */
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { bundledServer } from '../scripts/bundles.ts'
import { root } from '../scripts/dependencies.mjs'
import { newDatabase } from '../server/testing/database.ts'
import type { Running } from '../server/start.ts'

export interface Started {
  /** Origins, without a slash at the end. */
  workbench: string
  blog: string
}

/** The demo, or a new blog. */
export type Kind = 'demo' | 'blank'

export type Asked = { is: 'start'; key: string; kind: Kind } | { is: 'stop' }
export type Told = { is: 'started'; started: Started } | { is: 'stopped' } | { is: 'failed'; why: string }

const { start } = await bundledServer(root)
let running: Running | undefined
let data: string | undefined

async function begin(key: string, kind: Kind): Promise<Started> {
  data = mkdtempSync(join(tmpdir(), 'esquina-browser-'))
  running = await start({
    root,
    binaries: undefined,
    data,
    host: '127.0.0.1',
    port: 0,
    blogPort: 0,
    databaseUrl: await newDatabase(kind === 'demo' ? 'demo' : 'empty'),
    key,
    firstBlog: kind === 'demo' ? 'demo/cobble-lane' : 'demo/blank',
    say: () => undefined,
  })
  return { workbench: running.workbench, blog: running.blog }
}

async function end(): Promise<void> {
  await running?.stop()
  if (data !== undefined) rmSync(data, { recursive: true, force: true })
  running = data = undefined
}

const tell = (message: Told) => process.send?.(message)

process.on('message', (asked: Asked) => {
  const done: Promise<Told> =
    asked.is === 'start'
      ? begin(asked.key, asked.kind).then((started) => ({ is: 'started', started }))
      : end().then(() => ({ is: 'stopped' }))
  done.then(tell, (error: unknown) =>
    tell({ is: 'failed', why: error instanceof Error ? (error.stack ?? error.message) : String(error) }),
  )
})
// The process of the tests has ended.
process.on('disconnect', () => void end().finally(() => process.exit()))
