/** Creates a temporary database on the blog's server, and drops it afterwards. */
import { randomBytes } from 'node:crypto'
import { ScramClient } from '../store/scram-client.ts'
import type { DataSource } from 'typeorm'
import { stopLogging } from '../store/changes/stop-logging.ts'
import { makeDataSource } from '../store/connection.ts'

const PREFIX = 'esquina_scratch_'
/** Time limit of its statements, in milliseconds. */
const LONGEST = 600_000

/** An error that the administrator of the server can fix. Its message says how. */
export class ScratchProblem extends Error {}

export interface Scratch {
  database: DataSource
  /** Drops the database, even with open connections. */
  drop(): Promise<void>
}

function urlOf(database: DataSource): string {
  const { options } = database
  if (options.type !== 'postgres' || options.url === undefined)
    throw new Error('The database has no address.')
  return options.url
}

async function asAdministrator<T>(url: string, work: (client: ScramClient) => Promise<T>): Promise<T> {
  const client = new ScramClient({ connectionString: url })
  await client.connect()
  try {
    return await work(client)
  } finally {
    await client.end()
  }
}

const drop = (url: string, name: string) =>
  asAdministrator(url, (client) => client.query(`DROP DATABASE IF EXISTS "${name}" WITH (FORCE)`))

export async function makeScratch(blog: DataSource): Promise<Scratch> {
  const url = urlOf(blog)
  const name = `${PREFIX}${process.pid}_${randomBytes(4).toString('hex')}`
  try {
    await asAdministrator(url, (client) => client.query(`CREATE DATABASE "${name}" TEMPLATE template0`))
  } catch (error) {
    const code = error instanceof Error && 'code' in error ? error.code : ''
    if (code !== '42501') throw error
    throw new ScratchProblem(
      'The database role is not allowed to create databases, and measurements need a separate one. Run: ALTER ROLE … CREATEDB',
    )
  }
  const address = new URL(url)
  address.pathname = `/${name}`
  const database = makeDataSource(address.toString(), { longest: LONGEST })
  const gone = async () => {
    // The database is dropped first, because closing the pool would wait for running statements.
    await drop(url, name)
    await database.destroy().catch(() => undefined)
  }
  try {
    await database.initialize()
    await database.runMigrations()
    // A million generated rows need no log.
    await stopLogging(database)
    return { database, drop: gone }
  } catch (error) {
    await gone()
    throw error
  }
}

/** Drops the databases of processes that ended while they measured. */
export async function dropLeftovers(blog: DataSource): Promise<string[]> {
  const url = urlOf(blog)
  const rows = await blog.query<{ name: string }[]>(
    `SELECT datname AS name FROM pg_database WHERE starts_with(datname, $1) AND pg_get_userbyid(datdba) = current_user`,
    [PREFIX],
  )
  const left = rows.map((one) => one.name).filter((name) => !isRunning(name))
  for (const name of left) await drop(url, name)
  return left
}

/** Returns true while the process that created it is running. It may belong to another server. */
function isRunning(name: string): boolean {
  const pid = Number(name.slice(PREFIX.length).split('_')[0])
  if (!Number.isInteger(pid) || pid <= 0 || pid === process.pid) return false
  try {
    process.kill(pid, 0)
    return true
  } catch {
    return false
  }
}
