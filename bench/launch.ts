/** Starts the product for a measurement, as a user does. */
import { spawn, type ChildProcess } from 'node:child_process'
import { setTimeout } from 'node:timers/promises'
import { root } from '../scripts/dependencies.mjs'

export interface Launched {
  child: ChildProcess
  workbench: string
  blogPort: number
}

/**
 * Starts it on free ports, and waits until the first run of the checks has ended.
 * @param data an empty folder
 */
export async function launch(data: string, environment: Record<string, string> = {}): Promise<Launched> {
  const child = spawn(process.execPath, ['scripts/start.mjs'], {
    cwd: root,
    env: {
      ...process.env,
      ESQUINA_DATA: data,
      ESQUINA_PORT: '0',
      ESQUINA_BLOG_PORT: '0',
      // Each request names its address.
      ESQUINA_TRUSTED_PROXIES: '127.0.0.1',
      ...environment,
    },
    stdio: ['ignore', 'pipe', 'inherit'],
  })
  let output = ''
  child.stdout.on('data', (chunk: Buffer) => (output += chunk.toString()))
  while (!output.includes('Started in')) {
    if (child.exitCode !== null) throw new Error(`The server ended: ${output}`)
    await setTimeout(100)
  }
  await setTimeout(CHECKS)
  const [, workbench = ''] = /Workbench\s+(http:\/\/[\w.:]+)/.exec(output) ?? []
  const [, port = ''] = /Blog\s+http:\/\/[\w.]+:(\d+)/.exec(output) ?? []
  return { child, workbench, blogPort: Number(port) }
}

/** How long the checks take after the start, in milliseconds. */
const CHECKS = 15_000

export async function stop(child: ChildProcess): Promise<void> {
  const ended = new Promise((done) => child.once('close', done))
  child.kill('SIGTERM')
  await ended
}
