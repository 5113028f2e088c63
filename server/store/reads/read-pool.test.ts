// Statements of the same moment are sent together, and each has the result that it has alone.
import { createHash } from 'node:crypto'
import pg from 'pg'
import { beforeAll, beforeEach, describe, expect, it } from 'vitest'
import { administratorUrl, newDatabase } from '../../testing/database.ts'
import { ReadPool } from './read-pool.ts'

let url: string
let pool: pg.Pool
let reads: ReadPool

const open = (settings: pg.PoolConfig = {}) => {
  const opened = new pg.Pool({ connectionString: url, max: 10, ...settings })
  opened.on('error', () => undefined)
  return opened
}

beforeAll(async () => {
  url = await newDatabase('empty')
})
beforeEach(() => {
  pool = open()
  reads = new ReadPool(pool)
  return async () => await pool.end()
})

const statement = (text: string, values: readonly unknown[] = []) => ({
  name: createHash('sha256').update(text).digest('base64url'),
  text,
  values: [...values],
})
const run = async (text: string, values: readonly unknown[] = [], from: ReadPool = reads) =>
  (await from.query<Record<string, unknown>>(statement(text, values))).rows

/** Runs statements at the same moment. */
const together = (texts: readonly string[]) => Promise.allSettled(texts.map((one) => run(one)))
/** Runs statements one by one, after which they are known to be quick or slow. */
const introduce = async (texts: readonly string[]) => {
  for (const one of texts) await run(one)
}

/** Returns a statement whose result identifies its transaction and its connection. */
const place = (name: string) => `SELECT now()::text || ' ' || pg_backend_pid() AS place, '${name}' AS name`

describe('statements of the same moment', () => {
  const texts = ['a', 'b', 'c'].map(place)
  const places = async () => (await Promise.all(texts.map((one) => run(one)))).map(([row]) => row?.['place'])
  /** Waits until all are known to be quick, which the first runs on a busy machine may not be. */
  const untilTogether = () => expect.poll(async () => new Set(await places()).size).toBe(1)

  it('share a message if they are quick', async () => {
    await untilTogether()
    expect(new Set([...(await places()), ...(await places())]).size).toBe(2)
  })

  it('are sent alone until they have been timed', async () => {
    expect(new Set(await places()).size).toBe(3)
    await untilTogether()
  })

  it('are written to the connection at once', async () => {
    await untilTogether()
    const client = await pool.connect()
    const { stream } = (client as unknown as { connection: { stream: NodeJS.WritableStream } }).connection
    client.release()
    let writes = 0
    const inner = stream as unknown as {
      _writev(...words: unknown[]): void
      _write(...words: unknown[]): void
    }
    for (const method of ['_write', '_writev'] as const) {
      const old = inner[method].bind(stream)
      inner[method] = (...words) => (writes++, old(...words))
    }
    await places()
    expect(writes).toBe(1)
  })

  it('are sent alone if they are slow, until they are quick again', async () => {
    await run('CREATE TABLE IF NOT EXISTS pause AS SELECT 0.05 AS seconds')
    const slow = `SELECT now()::text || ' ' || pg_backend_pid() AS place, pg_sleep(seconds) FROM pause`
    await introduce([...texts, slow])
    const all = async () =>
      new Set((await Promise.all([...texts, slow].map((one) => run(one)))).map(([row]) => row?.['place']))
        .size
    await expect.poll(all).toBe(2)
    await pool.query('UPDATE pause SET seconds = 0')
    // It is timed each time that it is alone.
    expect(await all()).toBe(2)
    await expect.poll(all).toBe(1)
  })

  it('are noticed when they have become slow', async () => {
    await run('CREATE TABLE IF NOT EXISTS later AS SELECT 0.0 AS seconds')
    const later = `SELECT now()::text || ' ' || pg_backend_pid() AS place, pg_sleep(seconds) FROM later`
    const first = place('first')
    const isTogether = async () => {
      const rows = await Promise.all([run(first), run(later)])
      return new Set(rows.map(([row]) => row?.['place'])).size === 1
    }
    await expect.poll(isTogether).toBe(true)
    await pool.query('UPDATE later SET seconds = 0.02')
    let runs = 0
    while (await isTogether()) if (++runs > 70) break
    expect(runs).toBeLessThanOrEqual(66)
  })

  it('are spread over several messages if they are many', async () => {
    const many = Array.from({ length: 20 }, (_, index) => place(`many ${index}`))
    const all = () => Promise.all(many.map((one) => run(one)))
    await expect.poll(async () => new Set((await all()).map(([row]) => row?.['place'])).size).toBe(3)
    expect((await all()).map(([row]) => row?.['name'])).toEqual(many.map((_, index) => `many ${index}`))
  })

  it('may be one statement with several values, on a connection that has not prepared it', async () => {
    const text = 'SELECT $1::int * 2 AS double'
    await run(text, [1])
    const other = open({ max: 1 })
    const both = new ReadPool(other)
    await run(text, [1], both)
    // The connection is replaced by one that has prepared nothing.
    await other.query('SELECT pg_terminate_backend(pg_backend_pid())').catch(() => undefined)
    const rows = await Promise.all([2, 3, 4].map((value) => run(text, [value], both)))
    expect(rows).toEqual([[{ double: 4 }], [{ double: 6 }], [{ double: 8 }]])
    await other.end()
  })
})

describe('results', () => {
  // pg is the reference: each type that columns of the product have, with values that need care.
  it.each([
    ["SELECT 1::int AS a, 2::bigint AS b, 2.50::numeric AS c, 1.5::float8 AS d, 'x'::text AS e, true AS f"],
    [
      "SELECT NULL::int AS a, NULL::text AS b, NULL::timestamptz AS c, '{}'::text[] AS d, ARRAY[NULL, 1] AS e",
    ],
    [
      "SELECT timestamptz '2026-03-29 01:30:00+01' AS a, timestamp '2026-10-25 01:30:00' AS b, date '2026-02-28' AS c",
    ],
    ["SELECT timestamptz 'infinity' AS a, timestamptz '0044-03-15 00:00:00+00 BC' AS b"],
    [
      `SELECT '{"a":[1,{"b":null}]}'::jsonb AS a, '[]'::json AS b, '\\x00ff'::bytea AS c, ARRAY['a,b','"c"','{d}'] AS d`,
    ],
    ["SELECT E'café 雨の日 \\U0001F527 \\n\\t' AS a, '' AS b, repeat('x', 100000) AS c"],
    ['SELECT 1 AS a, 2 AS a'],
    ['SELECT'],
    ['SELECT 1 AS a WHERE false'],
    ['SELECT generate_series(1, 2000) AS a'],
  ])('%s', async (text) => {
    const { rows } = await pool.query(text)
    expect(await run(text)).toEqual(rows)
    // A second time, when its columns are known.
    expect((await together([text, place('beside')]))[0]).toEqual({ status: 'fulfilled', value: rows })
  })

  it.each([
    ['SELECT $1::text AS a', ['it’s; DROP TABLE post; -- \\ $1']],
    ['SELECT $1::int[] AS a', [[3, 1, 2]]],
    ['SELECT $1::text[] AS a', [['a"b', 'c,d', '\\', null]]],
    ['SELECT $1::text AS a, $2::boolean AS b, $3::float8 AS c', [null, false, 1e-7]],
    ['SELECT $1::timestamptz AS a', [new Date('2026-11-30T08:00:00.123Z')]],
    ['SELECT $1::jsonb AS a', [{ b: ['c'] }]],
  ])('%s with values', async (text, values: unknown[]) => {
    const { rows } = await pool.query(text, values)
    expect(await run(text, values)).toEqual(rows)
  })

  it('are read while a value of another statement cannot be', async () => {
    let isReadable = true
    const regclass = 2205
    pg.types.setTypeParser(regclass, (text) => {
      if (!isReadable) throw new Error('no')
      return text
    })
    const texts = ["SELECT 'before' AS a", "SELECT 'pg_class'::regclass AS a", "SELECT 'after' AS a"]
    await introduce(texts)
    isReadable = false
    expect(await together(texts)).toMatchObject([
      { status: 'fulfilled', value: [{ a: 'before' }] },
      { status: 'rejected', reason: { message: 'A value cannot be read.' } },
      { status: 'fulfilled', value: [{ a: 'after' }] },
    ])
    isReadable = true
    expect(await run(texts[1] ?? '')).toEqual([{ a: 'pg_class' }])
  })
})

describe('a statement that fails', () => {
  const fails = 'SELECT 1 / (SELECT count(*) FROM rare)::int AS a'
  beforeAll(async () => {
    const client = open()
    await client.query('CREATE TABLE rare (id int)')
    await client.end()
  })

  it('fails alone; those before and after it have their results', async () => {
    await pool.query('INSERT INTO rare VALUES (1)')
    const texts = ["SELECT 'before' AS a", fails, "SELECT 'after' AS a"]
    await introduce(texts)
    await pool.query('DELETE FROM rare')
    const [before, failed, after] = await together(texts)
    expect(before).toEqual({ status: 'fulfilled', value: [{ a: 'before' }] })
    expect(failed).toMatchObject({ status: 'rejected', reason: { code: '22012' } })
    expect(after).toEqual({ status: 'fulfilled', value: [{ a: 'after' }] })
  })

  it('is not run again', async () => {
    // A sequence counts even what is rolled back.
    await pool.query('CREATE SEQUENCE IF NOT EXISTS runs')
    await pool.query(
      `CREATE OR REPLACE FUNCTION count_and_fail() RETURNS int LANGUAGE plpgsql AS
        'BEGIN PERFORM nextval(''runs''); RETURN 1 / (SELECT count(*) FROM rare)::int; END'`,
    )
    await expect(run('SELECT count_and_fail() AS a')).rejects.toMatchObject({ code: '22012' })
    expect((await pool.query('SELECT last_value::int AS runs, is_called FROM runs')).rows).toEqual([
      { runs: 1, is_called: true },
    ])
  })

  it('has a timeout of its own, however long the batch takes', async () => {
    const limited = open({ statement_timeout: 1_000 })
    const from = new ReadPool(limited)
    await pool.query('CREATE TABLE IF NOT EXISTS pauses AS SELECT 0.0 AS short, 0.0 AS long')
    const short = ['a', 'b', 'c'].map((name) => `SELECT pg_sleep(short)::text, '${name}' AS name FROM pauses`)
    const long = `SELECT pg_sleep(long)::text FROM pauses`
    for (const one of [...short, long]) await run(one, [], from)
    await pool.query('UPDATE pauses SET short = 0.5, long = 5')
    const [a, b, c] = await Promise.all(short.map((one) => run(one, [], from)))
    expect([a, b, c].map((rows) => rows?.[0]?.['name'])).toEqual(['a', 'b', 'c'])
    const begun = performance.now()
    const texts = [place('quick'), long, place('other')]
    const [quick, timedOut, other] = await Promise.allSettled(texts.map((one) => run(one, [], from)))
    expect([quick?.status, other?.status]).toEqual(['fulfilled', 'fulfilled'])
    expect(timedOut).toMatchObject({ status: 'rejected', reason: { code: '57014' } })
    expect(performance.now() - begun).toBeLessThan(4_000)
    await limited.end()
  })
})

describe('a connection that is lost', () => {
  it('loses no results', async () => {
    const administrator = new pg.Client({ connectionString: administratorUrl(url) })
    await administrator.connect()
    await pool.query('CREATE TABLE IF NOT EXISTS held AS SELECT 1 AS a')
    const texts = [place('first'), 'SELECT a FROM held', place('last')]
    await introduce(texts)
    await administrator.query('BEGIN; LOCK TABLE held')
    const reading = together(texts)
    const waiting =
      "SELECT pid FROM pg_stat_activity WHERE wait_event_type = 'Lock' AND datname = current_database()"
    await expect.poll(async () => (await administrator.query(waiting)).rowCount).toBe(1)
    await administrator.query(`SELECT pg_terminate_backend(pid) FROM (${waiting}) AS one`)
    await administrator.query('COMMIT')
    expect((await reading).map((one) => one.status)).toEqual(['fulfilled', 'fulfilled', 'fulfilled'])
    await administrator.end()
  })

  it('fails all of them at once if there is no server', async () => {
    const elsewhere = new URL(url)
    elsewhere.port = '1'
    const nowhere = open({ connectionString: elsewhere.toString() })
    const from = new ReadPool(nowhere)
    const failed = await Promise.allSettled([place('a'), place('b')].map((one) => run(one, [], from)))
    expect(failed.map((one) => one.status === 'rejected' && (one.reason as { code?: string }).code)).toEqual([
      'ECONNREFUSED',
      'ECONNREFUSED',
    ])
    await nowhere.end()
  })

  it('fails them if the server does not answer, after the time for one', async () => {
    const patient = open({ query_timeout: 1_000 })
    const from = new ReadPool(patient)
    await pool.query('CREATE TABLE IF NOT EXISTS silent AS SELECT 0.0 AS seconds')
    const texts = [place('x'), 'SELECT pg_sleep(seconds)::text FROM silent']
    for (const one of texts) await run(one, [], from)
    await pool.query('UPDATE silent SET seconds = 6')
    const begun = performance.now()
    const results = await Promise.allSettled(texts.map((one) => run(one, [], from)))
    expect(results[1]).toMatchObject({ status: 'rejected', reason: { message: 'Query read timeout' } })
    expect(performance.now() - begun).toBeLessThan(5_000)
    await patient.end()
  })
})

it('a batch that waits for what waits for it is run again, statement by statement', async () => {
  // PostgreSQL ends the one that notices first.
  const administrator = (timeout: string) => ({
    connectionString: administratorUrl(url),
    options: `-c deadlock_timeout=${timeout}`,
  })
  const readers = open(administrator('2s'))
  const from = new ReadPool(readers)
  const writer = new pg.Client(administrator('1min'))
  await writer.connect()
  await writer.query('CREATE TABLE one AS SELECT 1 AS a; CREATE TABLE two AS SELECT 2 AS a')
  const texts = ['SELECT a FROM one', 'SELECT a FROM two']
  for (const one of texts) await run(one, [], from)
  await writer.query('BEGIN; LOCK TABLE two')
  const reading = Promise.all(texts.map((one) => run(one, [], from)))
  const waiting =
    "SELECT FROM pg_stat_activity WHERE wait_event_type = 'Lock' AND datname = current_database()"
  await expect.poll(async () => (await readers.query(waiting)).rowCount).toBe(1)
  await writer.query('LOCK TABLE one; COMMIT')
  expect(await reading).toEqual([[{ a: 1 }], [{ a: 2 }]])
  await writer.end()
  await readers.end()
})

describe('statements that may change something', () => {
  it('are not in a batch', async () => {
    await pool.query('CREATE TABLE IF NOT EXISTS written (id int)')
    const insert = 'INSERT INTO written VALUES (1) RETURNING now()::text || pg_backend_pid() AS place'
    const texts = [place('p'), insert]
    await introduce(texts)
    const [a, b] = await together(texts)
    expect(a?.status === 'fulfilled' && a.value[0]?.['place']).not.toBe(
      b?.status === 'fulfilled' && b.value[0]?.['place'],
    )
    expect((await pool.query('SELECT FROM written')).rowCount).toBe(2)
  })
})
