// The unit of work: all or nothing, purged after the commit, and repeated when PostgreSQL ends it for another one.
import { Client } from 'pg'
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest'
import type { DataSource } from 'typeorm'
import { describeChange } from '../../core/caching/change.ts'
import { refused, success } from '../../core/shapes/outcome.ts'
import { newDatabase } from '../testing/database.ts'
import { openDatabase } from './connection.ts'
import { TagEntity } from './entities/content.ts'
import type { LoggedChanges } from './changes/read-log.ts'
import { Store, type Unit } from './store.ts'

let database: DataSource
let url: string
let store: Store
let purged: LoggedChanges[] = []

const problem = { file: 'tags', code: 'name-empty', message: 'The name is empty.' }

/** The tags as other connections see them. */
const names = async () => {
  const client = new Client({ connectionString: url })
  await client.connect()
  const { rows } = await client.query<{ name: string }>('SELECT name FROM tag ORDER BY name')
  await client.end()
  return rows.map(({ name }) => name)
}

beforeAll(async () => {
  url = await newDatabase('empty')
  database = await openDatabase(url)
})
beforeEach(async () => {
  purged = []
  await database.query('TRUNCATE tag CASCADE')
  store = new Store(database, (changes) => {
    purged.push(changes)
    return changes.rows.map((one) => ({ key: `tag ${one.id}`, name: 'tag', why: describeChange(one) }))
  })
})
afterAll(() => database.destroy())

const insert = async (unit: Unit, name: string) => {
  const { id } = await unit.manager.save(TagEntity, { name, slug: name, former: [], version: 1 })
  return id
}

describe('write', () => {
  it('commits, purges what was changed, and returns what was dropped', async () => {
    const written = await store.write(async (unit) => success(await insert(unit, 'glue')))
    expect(written).toEqual({
      ok: true,
      value: expect.any(Number) as number,
      purged: [expect.objectContaining({ why: expect.stringMatching(/^tag \d+ created$/) as string })],
      step: expect.stringMatching(/^\d+$/) as string,
    })
    expect(purged).toHaveLength(1)
    expect(await names()).toEqual(['glue'])
  })

  it('purges after the commit, so that nobody renders a copy from old rows', async () => {
    let atPurge: Promise<string[]> | undefined
    const watched = new Store(database, () => {
      atPurge = names()
      return []
    })
    await watched.write(async (unit) => success(await insert(unit, 'glue')))
    expect(await atPurge).toEqual(['glue'])
  })

  it('runs what was registered for after the commit, once, when the change is visible', async () => {
    const seen: Promise<string[]>[] = []
    await store.write(async (unit) => {
      unit.afterCommit(() => (seen.push(names()), []))
      await unit.attempt(async (part) => {
        part.afterCommit(() => (seen.push(names()), []))
        return success(await insert(part, 'glue'))
      })
      await unit.attempt((part) => {
        part.afterCommit(() => (seen.push(Promise.resolve(['never'])), []))
        return Promise.resolve(refused(problem))
      })
      return success(null)
    })
    expect(await Promise.all(seen)).toEqual([['glue'], ['glue']])
  })

  it('a commit whose answer is lost clears all copies, since it may have happened', async () => {
    const { manager } = database
    const transaction = manager.transaction.bind(manager)
    const lost = Object.assign(new Error('Connection terminated unexpectedly'), { code: '08006' })
    manager.transaction = (async (...words: Parameters<typeof transaction>) => {
      await transaction(...words)
      throw lost
    }) as unknown as typeof transaction
    try {
      await expect(store.write(async (unit) => success(await insert(unit, 'glue')))).rejects.toBe(lost)
    } finally {
      manager.transaction = transaction
    }
    expect(await names()).toEqual(['glue'])
    expect(purged.map((one) => one.isTruncated)).toEqual([true])
    // The follower of the log applies it, too, whenever it reads it.
    expect(store.isOwn(purged[0]?.transaction ?? '')).toBe(false)
  })

  it('changes nothing after a failure', async () => {
    let isRun = false
    const written = await store.write(async (unit) => {
      await insert(unit, 'glue')
      unit.afterCommit(() => ((isRun = true), []))
      return refused(problem)
    })
    expect(written).toMatchObject({ ok: false, why: 'problems' })
    expect([await names(), purged, isRun]).toEqual([[], [], false])
  })

  it('changes nothing after an error', async () => {
    const written = store.write(async (unit) => {
      await insert(unit, 'glue')
      throw new Error('The lamp went out.')
    })
    await expect(written).rejects.toThrow('The lamp went out.')
    expect([await names(), purged]).toEqual([[], []])
  })

  it('forgets the changes of a failed attempt, and keeps the others', async () => {
    const written = await store.write(async (unit) => {
      await insert(unit, 'glue')
      const attempt = await unit.attempt(async (part) => {
        await insert(part, 'tape')
        return refused(problem)
      })
      expect(attempt.ok).toBe(false)
      return success(null)
    })
    expect(written).toMatchObject({ ok: true, purged: [{ name: 'tag' }] })
    expect(await names()).toEqual(['glue'])
    expect(purged.map(({ rows }) => rows.map(({ after }) => after?.['name']))).toEqual([['glue']])
  })

  it('turns a violated constraint into a failure, if it is an expected one', async () => {
    const twice = async (unit: Unit) => {
      await insert(unit, 'glue')
      return success(await insert(unit, 'glue'))
    }
    const taken = refused(problem)
    expect(await store.write(twice, () => taken)).toEqual(taken)
    await expect(store.write(twice)).rejects.toThrow(/duplicate key/)
    expect(await names()).toEqual([])
  })

  it('is repeated after a deadlock: both writers succeed', async () => {
    const ids = await Promise.all(
      ['glue', 'tape'].map((name) => store.write(async (unit) => success(await insert(unit, name)))),
    )
    const [first = 0, second = 0] = ids.map((one) => (one.ok ? one.value : 0))
    let runs = 0
    let waiting: (() => void)[] = []
    /** Continues when both transactions hold their first row, so that they deadlock in the first round. */
    const bothReady = () =>
      new Promise<void>((go) => {
        waiting.push(go)
        if (waiting.length === 2) {
          for (const one of waiting) one()
          waiting = []
        }
      })
    const rename = (order: readonly number[], suffix: string) =>
      store.write(async (unit) => {
        runs++
        for (const [index, id] of order.entries()) {
          await unit.manager.query('UPDATE tag SET name = name || $2 WHERE id = $1', [id, suffix])
          if (index === 0 && runs <= 2) await bothReady()
        }
        return success(null)
      })
    const written = await Promise.all([rename([first, second], '-a'), rename([second, first], '-b')])
    expect(written.map((one) => one.ok)).toEqual([true, true])
    expect(runs).toBe(3)
    for (const name of await names()) expect(name).toMatch(/^(glue|tape)(-a-b|-b-a)$/)
  })
})

describe('rehearse', () => {
  it('shows the result on its own connection, and keeps nothing', async () => {
    const rehearsed = await store.rehearse(
      async (unit) => success(await insert(unit, 'glue')),
      async (pool) => ({ inside: (await pool.query('SELECT name FROM tag')).rows, outside: await names() }),
    )
    expect(rehearsed).toEqual({ ok: true, value: { inside: [{ name: 'glue' }], outside: [] } })
    expect([await names(), purged]).toEqual([[], []])
  })

  it('keeps nothing after an error while looking', async () => {
    const rehearsed = store.rehearse(
      async (unit) => success(await insert(unit, 'glue')),
      () => Promise.reject(new Error('The lamp went out.')),
    )
    await expect(rehearsed).rejects.toThrow('The lamp went out.')
    expect(await names()).toEqual([])
  })
})
