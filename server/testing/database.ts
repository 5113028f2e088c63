/** Creates a database for a test file: a copy of the template that `npm test` has created. */
import { randomBytes } from 'node:crypto'
import { join } from 'node:path'
import { Client } from 'pg'
import type { DataSource } from 'typeorm'
import { readFolder } from '../author/documents/definition-folder.ts'
import { importFolder } from '../author/documents/import.ts'
import { Blog, type BlogOptions } from '../reader/blog.ts'
import { loadSite } from '../publish/documents.ts'
import { openDatabase } from '../store/connection.ts'

export const TEMPLATE = 'template_with_demo'

/** Returns the address of another database on the same server. */
export function databaseUrl(url: string, database: string): string {
  const changed = new URL(url)
  changed.pathname = `/${database}`
  return changed.toString()
}

function fromEnvironment(name: string): string {
  const value = process.env[name]
  if (value === undefined)
    throw new Error(`${name} is not set. Run the tests with “npm test” or “npm test -- FILE”.`)
  return value
}

/** Migrates a database, and fills it with the demo. */
export async function importDemo(url: string): Promise<void> {
  const database = await openDatabase(url)
  const demo = await readFolder(join(import.meta.dirname, '../../demo/cobble-lane'))
  const result = await importFolder(database, demo, new Date())
  await database.destroy()
  if (!result.ok) throw new Error(`The demo cannot be imported: ${JSON.stringify(result.problems, null, 2)}`)
}

/** Returns the address of the same database for the server's administrator. */
export const administratorUrl = (url: string) =>
  databaseUrl(fromEnvironment('ESQUINA_TEST_ADMINISTRATOR'), new URL(url).pathname.slice(1))

/** Creates a database. `empty` has the tables without rows. */
export async function newDatabase(kind: 'demo' | 'empty' = 'demo'): Promise<string> {
  const name = `test_${randomBytes(6).toString('hex')}`
  const client = new Client({ connectionString: fromEnvironment('ESQUINA_TEST_ADMINISTRATOR') })
  await client.connect()
  const source = kind === 'demo' ? `TEMPLATE ${TEMPLATE} STRATEGY file_copy` : ''
  await client.query(`CREATE DATABASE ${name} ${source} OWNER esquina`)
  await client.end()
  return databaseUrl(fromEnvironment('ESQUINA_TEST_URL'), name)
}

/** Statement timeout in tests, in milliseconds. Shared machines may stall for seconds. */
const LONGEST = 60_000

export const quiet = { info: () => undefined, error: () => undefined }

export interface TestBlog {
  blog: Blog
  database: DataSource
  url: string
  close(): Promise<void>
}

/**
 * Returns a blog on a separate database.
 * @param kind `blank`: a new blog, as `npm start -- --blank` has it
 */
export async function testBlog(
  options: Partial<BlogOptions> = {},
  kind: 'demo' | 'blank' = 'demo',
): Promise<TestBlog> {
  const url = await newDatabase(kind === 'demo' ? 'demo' : 'empty')
  const database = await openDatabase(url, { longest: LONGEST })
  if (kind === 'blank') {
    const folder = await readFolder(join(import.meta.dirname, '../../demo/blank'))
    await importFolder(database, folder, new Date())
  }
  const site = await loadSite(database)
  if (!site.ok) throw new Error(JSON.stringify(site.problems))
  const blog = new Blog({ database, site: site.value, log: quiet, ...options })
  const close = async () => {
    // Its threads have connections, too.
    await blog.stop()
    await database.destroy()
  }
  return { blog, database, url, close }
}
