// Importing a folder: all of it or nothing, with every problem's place.
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { DataSource } from 'typeorm'
import type { Problem } from '../../../core/shapes/problem.ts'
import { openDatabase } from '../../store/connection.ts'
import { newDatabase } from '../../testing/database.ts'
import { readFolder, type DefinitionFolder } from './definition-folder.ts'
import { readTime } from '../../../core/content/times.ts'
import { importFolder } from './import.ts'

let database: DataSource
let folder: DefinitionFolder
beforeAll(async () => {
  database = await openDatabase(await newDatabase('empty'))
  folder = await readFolder(join(import.meta.dirname, '../../../demo/cobble-lane'))
})
afterAll(() => database.destroy())

const rows = async () => {
  const tables = ['post', 'page', 'category', 'tag', 'author', 'comment', 'image', 'document']
  const counts = await Promise.all(
    tables.map(
      async (table) => (await database.query<{ count: string }[]>(`SELECT count(*) FROM ${table}`))[0]?.count,
    ),
  )
  return Object.fromEntries(tables.map((table, index) => [table, Number(counts[index])]))
}
const changed = (path: string, text: string): DefinitionFolder => ({
  ...folder,
  texts: new Map([...folder.texts, [path, text]]),
})

describe('importFolder', () => {
  it.each<[string, () => DefinitionFolder, string, Partial<Problem>]>([
    [
      'an unknown category',
      () => changed('content/posts/bad.md', '---\ntitle: Bad\ncategory: nonsense\n---\ntext'),
      'content/posts/bad.md',
      { code: 'reference-unknown', path: '/category', line: 3 },
    ],
    [
      'an invalid time',
      () => changed('content/posts/bad.md', '---\ntitle: Bad\npublished: soon\n---\ntext'),
      'content/posts/bad.md',
      { code: 'time-invalid', path: '/published', line: 3 },
    ],
    [
      'a title without a slug',
      () => changed('content/posts/♥.md', '---\ntitle: ♥ ♥ ♥\n---\ntext'),
      'content/posts/♥.md',
      { code: 'slug-not-derivable', path: '/slug', line: 2 },
    ],
    [
      'a comment on nothing',
      () => changed('content/comments.json', '[{"post":"nothing","name":"a","text":"b","at":"-1 days"}]'),
      'content/comments.json',
      { code: 'row-unknown', path: '/0/post' },
    ],
    [
      'an invalid definition',
      () => changed('routes.yaml', '- name: x'),
      'routes.yaml',
      { code: 'value-missing', path: '/0', line: 1 },
    ],
    [
      'an SVG image with a script',
      () => ({
        ...folder,
        media: new Map([
          [
            'x.svg',
            Buffer.from(
              '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 9 9"><script>alert(1)</script></svg>',
            ),
          ],
        ]),
      }),
      'media/x.svg',
      { code: 'folder-image-unsafe', line: 1 },
    ],
    [
      'a damaged image',
      () => ({ ...folder, media: new Map([['x.svg', Buffer.from('GIF89a')]]) }),
      'media/x.svg',
      { code: 'image-damaged' },
    ],
  ])('%s: refused, and nothing is written', async (_, faulty, file, problem) => {
    const result = await importFolder(database, faulty(), new Date())
    expect(result.ok ? [] : result.problems).toEqual(
      expect.arrayContaining([expect.objectContaining({ file, ...problem })]),
    )
    expect(Object.values(await rows()).every((count) => count === 0)).toBe(true)
  })

  it('imports the demo: 48 posts, of which 4 drafts and 3 scheduled', async () => {
    // The first minute of a day: no relative time of the demo may then lie in the future.
    const now = readTime('+0 days 00:01', new Date(), 'Europe/London') as Date
    expect(await importFolder(database, folder, now)).toMatchObject({ ok: true })
    expect(await rows()).toMatchObject({ post: 48, page: 8, category: 7, tag: 15, author: 5, comment: 209 })
    const states = await database.query<object[]>(
      'SELECT count(*) FILTER (WHERE published_at IS NULL)::int AS drafts, count(*) FILTER (WHERE published_at > $1)::int AS scheduled FROM post',
      [now],
    )
    expect(states).toEqual([{ drafts: 4, scheduled: 3 }])
    expect(await database.query('SELECT 1 FROM comment WHERE created_at > $1', [now])).toEqual([])
    expect(
      await database.query(
        'SELECT 1 FROM comment c JOIN post p ON p.id = c.post_id WHERE c.created_at < p.published_at',
      ),
    ).toEqual([])
  })

  it('the entities say what the migrations made', async () => {
    const difference = await database.driver.createSchemaBuilder().log()
    expect(difference.upQueries.map((one) => one.query)).toEqual([])
  })

  it('the database has the last word on slugs and on comments’ posts', async () => {
    await expect(
      database.query("UPDATE post SET slug = 'moth' WHERE slug = 'zip-surgery'"),
    ).rejects.toMatchObject({ code: '23505', constraint: 'post_slug_key' })
    await expect(
      database.query("UPDATE post SET slug = 'Not a slug' WHERE slug = 'moth'"),
    ).rejects.toMatchObject({ constraint: 'post_slug_check' })
    await expect(
      database.query("INSERT INTO comment (post_id, name, text) VALUES (99999, 'a', 'b')"),
    ).rejects.toMatchObject({ constraint: 'comment_post_fk' })
  })
})
