/** A Redis server for tests, which keeps nothing on disk. */
import { spawn, type ChildProcess } from 'node:child_process'
import { existsSync } from 'node:fs'
import { connect } from 'node:net'
import { freePort } from '../store/cluster.ts'

const PROGRAMS = ['/usr/bin/redis-server', '/usr/bin/valkey-server']
export const redisProgram = (): string | undefined => PROGRAMS.find((one) => existsSync(one))

export interface TestRedis {
  url: string
  port: number
  /** Kills it. `start` starts it again, without data. */
  kill(): Promise<void>
  start(): Promise<void>
  /** Suspends or resumes it. While it is suspended, connections stay open. */
  pause(isPaused: boolean): void
}

export async function startRedis(program = redisProgram()): Promise<TestRedis> {
  if (program === undefined) throw new Error('Redis is not installed.')
  const port = await freePort()
  let child: ChildProcess | undefined
  const start = async () => {
    child = spawn(
      program,
      [
        '--port',
        String(port),
        '--bind',
        '127.0.0.1',
        '--save',
        '',
        '--appendonly',
        'no',
        '--maxmemory',
        '64mb',
      ],
      { stdio: 'ignore' },
    )
    for (let look = 0; !(await isListening(port)); look++) {
      if (look > 200) throw new Error('Redis has not started.')
      await new Promise((done) => globalThis.setTimeout(done, 25))
    }
  }
  const kill = async () => {
    const ended = new Promise((done) => child?.once('close', done))
    if (child?.kill('SIGKILL') === true) await ended
  }
  await start()
  return {
    url: `redis://127.0.0.1:${port}`,
    port,
    kill,
    start,
    pause: (isPaused) => child?.kill(isPaused ? 'SIGSTOP' : 'SIGCONT'),
  }
}

const isListening = (port: number) =>
  new Promise<boolean>((done) => {
    const socket = connect(port, '127.0.0.1')
    socket.on('connect', () => (socket.destroy(), done(true)))
    socket.on('error', () => done(false))
  })
