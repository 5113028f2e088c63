// How long statements may take: those of a request seconds, those of a migration as long as a large blog needs.
import { Client } from 'pg'
import { expect, it } from 'vitest'
import { administratorUrl, newDatabase } from '../testing/database.ts'
import { openDatabase } from './connection.ts'

it('a migration may take longer than a statement of a request', async () => {
  const url = await newDatabase('empty')
  const administrator = new Client({ connectionString: administratorUrl(url) })
  await administrator.connect()
  // As on a blog of very many posts, one statement takes its time.
  await administrator.query(
    `CREATE FUNCTION linger() RETURNS event_trigger LANGUAGE plpgsql AS 'BEGIN PERFORM pg_sleep(2.5); END'`,
  )
  await administrator.query(
    "CREATE EVENT TRIGGER lingers ON ddl_command_start WHEN TAG IN ('CREATE EXTENSION') EXECUTE FUNCTION linger()",
  )
  await administrator.end()
  const database = await openDatabase(url, { longest: 2_000 })
  expect(await database.showMigrations()).toBe(false)
  await expect(database.query('SELECT pg_sleep(2.5)')).rejects.toThrow('statement timeout')
  await database.destroy()
})
