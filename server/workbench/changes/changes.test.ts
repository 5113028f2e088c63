// The Changes area over the API: everything that was changed is listed with before and after, and every step is undone as
// one transaction, unless a later step builds on it.
import { Client } from 'pg'
import { afterAll, beforeAll, expect, it } from 'vitest'
import type { StepItem } from '../../../contract/changes.ts'
import { saveTexts, textOf } from '../../testing/edits.ts'
import { testWorkbench, type TestWorkbench } from '../../testing/workbench.ts'

let test: TestWorkbench
let outside: Client
beforeAll(async () => {
  test = await testWorkbench()
  outside = new Client({ connectionString: test.url })
  await outside.connect()
})
afterAll(async () => {
  await outside.end()
  await test.close()
})

const steps = async (query = '') =>
  (await test.api<{ steps: StepItem[]; isMore: boolean }>('GET', `/api/steps${query}`)).answer
const latest = async () => (await steps()).steps[0] as StepItem
const undo = async ({ id }: Pick<StepItem, 'id'>) => await test.api('POST', '/api/step/undo', { id })
const ref = async (slug: string) => {
  const { answer } = await test.api<{ version: number; matter: object; body: string }>(
    'GET',
    `/api/post?slug=${slug}`,
  )
  return answer
}
/** Everything that readers can see, and the bin. */
const everything = async () =>
  (
    await outside.query<{ all: unknown }>(
      `SELECT (SELECT jsonb_agg(to_jsonb(p) - 'version' - 'updated_at' ORDER BY p.id) FROM post p) AS posts,
       (SELECT jsonb_agg(to_jsonb(c) - 'version' ORDER BY c.id) FROM comment c) AS comments,
       (SELECT jsonb_agg(to_jsonb(t) ORDER BY t.post_id, t.tag_id) FROM post_tag t) AS tags,
       (SELECT jsonb_agg(to_jsonb(t) - 'version' ORDER BY t.id) FROM tag t) AS names,
       (SELECT jsonb_agg(to_jsonb(t) - 'version' ORDER BY t.id) FROM category t) AS categories,
       (SELECT jsonb_agg(to_jsonb(p) - 'version' - 'updated_at' ORDER BY p.id) FROM page p) AS pages,
       (SELECT jsonb_agg(to_jsonb(f) ORDER BY f.id) FROM former_slug f) AS former,
       (SELECT jsonb_agg(to_jsonb(i) ORDER BY i.id) FROM image i) AS images,
       (SELECT jsonb_agg(d.path || d.text ORDER BY d.path) FROM document d) AS documents,
       (SELECT count(*) FROM deleted_row) AS bin`,
    )
  ).rows

it('lists a saved post with its fields before and after, and undoes the save', async () => {
  const before = await everything()
  const { version, matter, body } = await ref('moth')
  await test.api('PUT', '/api/post?slug=moth', {
    version,
    matter: { ...matter, title: 'Moths', slug: 'moths' },
    body,
  })
  const step = await latest()
  expect(step).toMatchObject({ isOutside: false, of: 'content', undoes: null, undoneBy: null })
  const [row] = step.rows
  expect(row).toMatchObject({ table: 'post', title: 'Moths', kind: 'changed' })
  expect(row?.fields).toContainEqual({ name: 'slug', before: 'moth', after: 'moths' })
  expect((await undo(step)).status).toBe(200)
  expect(await everything()).toEqual(before)
  expect((await test.read('/posts/moth')).status).toBe(200)
  const undoing = await latest()
  expect(undoing.undoes).toBe(step.id)
  // An undone step says so, and is not undone twice; the undoing can be undone.
  const again = await undo(step)
  expect([again.status, again.answer['code']]).toEqual([409, 'step-undone'])
  expect((await undo(undoing)).status).toBe(200)
  expect((await test.read('/posts/moths')).status).toBe(200)
  expect((await undo(step)).status).toBe(200)
  expect(await everything()).toEqual(before)
})

it('undoes deletions, merges, moves, replaced images, restored rows and SQL of another program', async () => {
  const before = await everything()
  const works: (() => Promise<unknown>)[] = [
    async () =>
      test.api('POST', '/api/posts/delete', {
        posts: [{ slug: 'moth', version: (await ref('moth')).version }],
      }),
    async () => {
      const { answer } = await test.api<{ version: number }>('GET', '/api/page?path=open-days')
      return await test.api('POST', '/api/page/delete?path=open-days', { version: answer.version })
    },
    () => test.api('PUT', '/api/slug', { kind: 'page', from: 'tool-library', to: 'tools' }),
    () => outside.query('UPDATE post SET title = upper(title), category_id = NULL WHERE id < 20'),
    () => outside.query('DELETE FROM post_tag WHERE tag_id = (SELECT min(tag_id) FROM post_tag)'),
    () =>
      outside.query("UPDATE image SET bytes = 'other', sha256 = 'other', width = 7 WHERE name = 'sign.svg'"),
    () => outside.query('UPDATE tag SET slug = slug || id'),
    () => outside.query('DELETE FROM comment'),
  ]
  for (const work of works) {
    await work()
    const step = await latest()
    expect(await everything()).not.toEqual(before)
    const undone = await undo(step)
    expect([undone.status, undone.answer['code'], undone.answer['title']]).toEqual([
      200,
      undefined,
      undefined,
    ])
    expect(await everything()).toEqual(before)
  }
  expect((await steps()).steps.some((one) => one.isOutside)).toBe(true)
})

it('undoes the latest steps first, one after the other, and refuses to skip one', async () => {
  const before = await everything()
  const rename = async (title: string) => {
    const { version, matter, body } = await ref('zip-surgery')
    await test.api('PUT', '/api/post?slug=zip-surgery', { version, matter: { ...matter, title }, body })
    return await latest()
  }
  const [one, two] = [await rename('One'), await rename('Two')]
  const early = await undo(one)
  expect([early.status, early.answer['code']]).toEqual([409, 'step-built-upon'])
  expect([(await undo(two)).status, (await undo(one)).status]).toEqual([200, 200])
  expect(await everything()).toEqual(before)
})

it('lists and undoes changes of the definition, at once for readers', async () => {
  const path = 'blog.yaml'
  const text = await textOf(test.blog, path)
  await saveTexts(test.blog, { [path]: text.replace('Cobble Lane Repair Café', 'Corner Café') })
  expect((await test.read('/')).text).toContain('Corner Café')
  const step = await latest()
  expect(step).toMatchObject({ of: 'definition', rows: [{ table: 'document', title: path }] })
  expect((await steps('?of=definition')).steps.every((one) => one.of !== 'content')).toBe(true)
  expect((await steps('?of=content')).steps.every((one) => one.of === 'content')).toBe(true)
  const { answer } = await test.api<StepItem>('GET', `/api/step?id=${step.id}`)
  expect(answer.rows[0]?.fields).toEqual([
    { name: 'text', before: text, after: text.replace('Cobble Lane Repair Café', 'Corner Café') },
  ])
  expect((await undo(step)).status).toBe(200)
  expect((await test.read('/')).text).not.toContain('Corner Café')
  expect(await textOf(test.blog, path)).toBe(text)
})

it('refuses an undo that would break the definition, or that another row needs', async () => {
  await saveTexts(test.blog, { 'queries/extra.yaml': 'from: posts\nwhere: [published]\ntake: all\n' })
  const added = await latest()
  const routes = await textOf(test.blog, 'routes.yaml')
  await saveTexts(test.blog, {
    'routes.yaml': `${routes}\n- name: extra\n  path: /extra\n  data: { posts: extra }\n  template: pages/archive\n`,
  })
  const broken = await undo(added)
  expect([broken.status, broken.answer['code']]).toEqual([422, 'data-query-unknown'])
  await test.api('POST', '/api/terms', { kind: 'category', name: 'New', slug: 'new' })
  const created = await latest()
  const { version } = await ref('moth')
  await test.api('POST', '/api/posts/change', {
    posts: [{ slug: 'moth', version }],
    change: { category: 'new' },
  })
  const needed = await undo(created)
  expect([needed.status, needed.answer['code']]).toEqual([409, 'step-needed'])
  expect((await undo({ id: '999999999' })).status).toBe(404)
  await outside.query("INSERT INTO tag (name, slug) VALUES ('First', 'first')")
  await outside.query("DELETE FROM tag WHERE slug = 'first'")
  const deleted = await latest()
  await outside.query("INSERT INTO tag (name, slug) VALUES ('Second', 'first')")
  const taken = await undo(deleted)
  expect([taken.status, taken.answer['code']]).toEqual([409, 'step-name-taken'])
})

it('shows the first rows of a large step, says how many there are, and undoes all of them', async () => {
  const before = await everything()
  await outside.query(
    `BEGIN; UPDATE post SET body = repeat('x', 100000) || body, title = title || '!';
     UPDATE comment SET name = name || ' A.'; COMMIT`,
  )
  const { rows } = await outside.query<{ total: number }>(
    'SELECT count(*)::int AS total FROM change_log WHERE transaction = (SELECT max(transaction) FROM change_log)',
  )
  const total = rows[0]?.total ?? 0
  expect(total).toBeGreaterThan(50)
  const listed = await latest()
  expect([listed.rows.length, listed.total, listed.rows[0]?.fields.map((one) => one.name)]).toEqual([
    1,
    total,
    expect.arrayContaining(['title', 'body']),
  ])
  expect(JSON.stringify(listed).length).toBeLessThan(2_000)
  const { answer } = await test.api<StepItem>('GET', `/api/step?id=${listed.id}`)
  expect([answer.rows.length, answer.total]).toEqual([50, total])
  expect(JSON.stringify(answer).length).toBeLessThan(1_300_000)
  expect((await undo(listed)).status).toBe(200)
  expect(await everything()).toEqual(before)
})

it('undoes several changes of one row by one transaction', async () => {
  const before = await everything()
  await outside.query(
    `BEGIN; UPDATE post SET title = 'One' WHERE id IN (1, 2); UPDATE post SET title = 'Two' WHERE id IN (1, 3);
     UPDATE post SET title = 'Three' WHERE id = 1; COMMIT`,
  )
  expect((await undo(await latest())).status).toBe(200)
  expect(await everything()).toEqual(before)
})

it('pages through all steps', async () => {
  const seen: string[] = []
  const read = async (of: string) => {
    const ids: string[] = []
    for (let before = ''; ;) {
      const { steps: found, isMore } = await steps(`?${before}${of}`)
      ids.push(...found.map((one) => one.id))
      if (!isMore) return ids
      before = `before=${found.at(-1)?.id ?? ''}&`
    }
  }
  seen.push(...(await read('')))
  expect(new Set(seen).size).toBe(seen.length)
  expect(seen).toEqual(seen.toSorted((a, b) => Number(b) - Number(a)))
  const { rows } = await outside.query<{ id: string; documents: boolean }>(
    "SELECT transaction AS id, bool_or(source = 'document') AS documents FROM change_log GROUP BY 1 ORDER BY 1 DESC",
  )
  const kept = (documents: boolean) => rows.filter((one) => one.documents === documents).map((one) => one.id)
  expect(seen).toEqual(rows.map((one) => one.id))
  expect(await read('of=definition')).toEqual(kept(true))
  expect(await read('of=content')).toEqual(kept(false))
})
