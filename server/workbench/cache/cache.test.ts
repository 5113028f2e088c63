// The Cache area over the API.
import { afterAll, beforeAll, expect, it } from 'vitest'
import type { CopyItem } from '../../../contract/cache.ts'
import { editPost } from '../../testing/edits.ts'
import { testWorkbench, type TestWorkbench } from '../../testing/workbench.ts'

let test: TestWorkbench
beforeAll(async () => (test = await testWorkbench()))
afterAll(() => test.close())

const copies = async () =>
  (await test.api<{ copies: CopyItem[]; bytes: number }>('GET', '/api/copies')).answer

it('lists what is stored, with what it depends on, and its size', async () => {
  expect(await copies()).toEqual({ copies: [], bytes: 0, processes: 1 })
  await test.read('/posts')
  const { copies: stored, bytes } = await copies()
  const cards = stored.filter((one) => one.name === 'card')
  expect(cards).toHaveLength(6)
  for (const one of stored) {
    expect(one.bytes).toBeGreaterThan(0)
    expect(one.ageMilliseconds).toBeGreaterThanOrEqual(0)
    expect(one.remainingMilliseconds).toBeGreaterThan(0)
    expect(one.dependsOn.length).toBeGreaterThan(0)
  }
  for (const card of cards) expect(card.dependsOn.filter((one) => /^posts:\d+$/.test(one))).toHaveLength(1)
  expect(bytes).toBeGreaterThanOrEqual(stored.reduce((sum, one) => sum + one.bytes, 0))
})

it('no longer lists what a save has purged, and the save reports it', async () => {
  const { copies: before } = await copies()
  const saved = await editPost(test.blog, 'truing-a-wheel-with-two-spoons', (text) =>
    text.replace(/^title: .*$/m, 'title: Another title'),
  )
  const purged = saved.ok ? saved.purged.map((one) => one.key) : []
  expect(saved.ok && saved.purged.map((one) => one.why)).toContainEqual(
    expect.stringMatching(/^post \d+: .*title.* changed$/),
  )
  const { copies: after } = await copies()
  expect(after.map((one) => one.key)).toEqual(
    before.map((one) => one.key).filter((key) => !purged.includes(key)),
  )
})

it('is cleared, and says how much was dropped', async () => {
  await test.read('/posts')
  const { copies: before } = await copies()
  expect((await test.api('DELETE', '/api/copies')).answer).toEqual({ dropped: before.length })
  expect(await copies()).toEqual({ copies: [], bytes: 0, processes: 1 })
  expect((await test.api('DELETE', '/api/copies')).answer).toEqual({ dropped: 0 })
})
