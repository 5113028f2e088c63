/** What an ordinary reader notices of attacks: each runs in a thread of its own against `npm start`, over HTTP. */
import { readFileSync } from 'node:fs'
import { Agent, get } from 'node:http'
import { setTimeout } from 'node:timers/promises'
import { Worker } from 'node:worker_threads'
import { launch, stop } from './launch.ts'

export interface AttackFigure {
  what: string
  value: string
  ratio: string
  /** The memory of the server afterwards, and the number of answers by status (0: none). */
  answers: string
}

/** The attacks by name, as the thread in `attacker.mjs` has them. */
const ATTACKS = {
  missing: '1,000 requests a second for missing pages, from one address',
  'missing-many': 'the same from 1,000 addresses',
  methods: '1,000 requests a second with unknown methods, from one address',
  comments: '1,000 forged comments a second, from one address',
  'comments-many': 'the same from 1,000 addresses',
  'large-comments': 'comments of 1 MB on 20 connections',
  searches: 'searches for 20 words on 12 connections, from 12 addresses',
  headers: 'headers of 1 MB on 20 connections',
  'half-open': '1,500 connections that send half of a request',
  'slow-bodies': '300 forms whose body never ends',
} as const

/** The duration of each attack, and the interval of the reader's requests, in milliseconds. */
const LASTS = 6_000
const PAUSE = 30
const READER = '198.51.100.9'

const sorted = (values: readonly number[]) => [...values].sort((a, b) => a - b)
const quantile = (values: readonly number[], q: number) =>
  sorted(values)[Math.min(values.length - 1, Math.floor(values.length * q))] ?? NaN

/** Requests a page as a reader does. @returns the status and the time in milliseconds */
function read(agent: Agent, port: number): Promise<{ status: number; took: number }> {
  const began = performance.now()
  return new Promise((done) => {
    const failed = () => done({ status: 0, took: performance.now() - began })
    get({ agent, port, path: '/posts', headers: { 'x-forwarded-for': READER } }, (response) => {
      response.resume()
      response.on('end', () => done({ status: response.statusCode ?? 0, took: performance.now() - began }))
      response.on('error', failed)
    }).on('error', failed)
  })
}

/** Requests a page every few milliseconds, whether the one before was answered or not. */
async function readers(agent: Agent, port: number): Promise<{ took: number[]; failed: number }> {
  const end = performance.now() + LASTS
  const all: Promise<{ status: number; took: number }>[] = []
  while (performance.now() < end) {
    all.push(read(agent, port))
    await setTimeout(PAUSE)
  }
  const answers = await Promise.all(all)
  return {
    took: answers.map((one) => one.took),
    failed: answers.filter((one) => one.status !== 200).length,
  }
}

/** Returns the memory of a process, in megabytes. */
const memoryOf = (pid: number): number =>
  Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))?.[1] ?? 0) / 1_024

/** @param data an empty folder */
export async function attackFigures(data: string): Promise<AttackFigure[]> {
  const { child, blogPort: port } = await launch(data)
  const agent = new Agent({ keepAlive: true })
  try {
    const alone = await readers(agent, port)
    const usual = quantile(alone.took, 0.99)
    const figures: AttackFigure[] = [
      {
        what: '  GET /posts alone: median, 99th percentile',
        value: spanOf(alone.took),
        ratio: '1.00',
        answers: `${memoryOf(child.pid ?? 0).toFixed(0)} MB`,
      },
    ]
    for (const [name, what] of Object.entries(ATTACKS)) {
      const attack = new Worker(new URL('attacker.mjs', import.meta.url), { workerData: { name, port } })
      await setTimeout(500)
      const { took, failed } = await readers(agent, port)
      const counted = new Promise<Record<string, number>>((done) => attack.once('message', done))
      attack.postMessage('stop')
      const answers = Object.entries(await counted).map(([status, count]) => `${count} × ${status}`)
      await attack.terminate()
      figures.push({
        what: `  ${what}`,
        value: spanOf(took) + (failed === 0 ? '' : `, ${failed} failed`),
        ratio: (quantile(took, 0.99) / usual).toFixed(2),
        answers: `${memoryOf(child.pid ?? 0).toFixed(0)} MB; ${answers.join(', ')}`,
      })
      await setTimeout(1_000)
    }
    return figures
  } finally {
    agent.destroy()
    await stop(child)
  }
}

const spanOf = (took: readonly number[]) =>
  `${quantile(took, 0.5).toFixed(0)} · ${quantile(took, 0.99).toFixed(0)} ms`
