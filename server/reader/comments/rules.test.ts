// What the declared comment rules decide. On the demo.
import { describe, expect, it } from 'vitest'
import { useCommentedDemo, type CommentedPage } from '../../testing/comments.ts'
import type { TestBlog } from '../../testing/database.ts'
import { saveTexts, textOf } from '../../testing/edits.ts'

let test: TestBlog
let page: CommentedPage
useCommentedDemo((made) => ({ test, page } = made))

describe('rules', () => {
  it.each([
    ['show: after-approval', {}, 'waiting', ['after-approval']],
    ['show: at-once', {}, 'shown', []],
    ['show: at-once', { text: 'https://a.example https://b.example' }, 'waiting', ['links']],
    ['show: at-once, links: 2', { text: 'https://a.example https://b.example' }, 'shown', []],
    ['show: at-once', { homepage: 'https://a.example' }, 'spam', ['honeypot']],
    ['show: at-once, honeypot: false', { homepage: 'https://a.example' }, 'shown', []],
    [
      'show: at-once, blocked-words: [cheap spanners]',
      { text: 'CHEAP spanners!' },
      'waiting',
      ['blocked-word'],
    ],
    ['show: at-once, blocked-words: [spanner]', { text: 'cheap spanners' }, 'shown', []],
    ['show: at-once', { name: 'ＩNES  Marchetti' }, 'waiting', ['author-name']],
  ])('{ %s }: %j is %s because of %j', async (rules, fields, state, reasons) => {
    await page.withRules(`{ ${rules} }`, async () => {
      expect((await page.send({ text: 'x', ...fields })).status).toBe(303)
      const [row] = await page.stored()
      expect([row?.state, row?.reasons.map((one) => one.code)]).toEqual([state, reasons])
    })
  })
  it('a form that is sent at once was not filled in by a person', async () => {
    await page.withRules('{ show: at-once, fill-time: 3s }', async () => {
      await page.send({ text: 'fast' }, { token: { open: 2_000 } })
      await page.send({ text: 'slow' }, { token: { open: 4_000 } })
      expect((await page.stored()).map((one) => [one.text, one.state])).toEqual([
        ['fast', 'waiting'],
        ['slow', 'shown'],
      ])
    })
  })
  it('the same text again waits, and soon is spam', async () => {
    await page.withRules('{ show: at-once }', async () => {
      for (let time = 0; time < 5; time++) await page.send({ text: 'Buy my book' })
      expect((await page.stored()).map((one) => one.state)).toEqual([
        'shown',
        'waiting',
        'waiting',
        'spam',
        'spam',
      ])
    })
  })
  it('comments close after a time, or for all', async () => {
    await page.withRules('{ closes-after: 1d }', async () => {
      expect((await page.send({ text: 'late' })).status).toBe(403)
      expect((await page.get('/posts/moth')).body).toContain('Comments on this post are closed.')
    })
    await page.withRules('{ accept: false }', async () =>
      expect((await page.send({ text: 'x' })).status).toBe(403),
    )
  })
  it('a route may have rules of its own', async () => {
    const routes = await textOf(test.blog, 'routes.yaml')
    await saveTexts(test.blog, {
      'routes.yaml': routes.replace(
        '  action: add-comment\n',
        '  action: add-comment\n  comments: { show: at-once }\n',
      ),
    })
    await page.send({ text: 'x' })
    expect((await page.stored()).map((one) => one.state)).toEqual(['shown'])
    await saveTexts(test.blog, { 'routes.yaml': routes })
  })
  it('rates are counted by address and by post, whatever process asks; the answer says when to try again', async () => {
    await page.withRules('{ rate: { per-address: 2, per-post: 4, within: 1h } }', async () => {
      const from = async (client: string) => {
        const { status, headers, body } = await page.send({ text: `from ${client}` }, { client })
        if (status === 429) {
          expect(Number(headers['retry-after'])).toBeGreaterThan(0)
          expect(body).toContain(`>from ${client}</textarea>`)
        }
        return status
      }
      expect([await from('192.0.2.9'), await from('192.0.2.9'), await from('192.0.2.9')]).toEqual([
        303, 303, 429,
      ])
      // One IPv6 network is one address.
      expect(await from('2001:db8:1:2::1')).toBe(303)
      expect(await from('2001:db8:1:2:ffff::9')).toBe(303)
      expect(await from('2001:db8:1:3::1')).toBe(429)
      expect(await page.stored()).toHaveLength(4)
    })
  })
  it('the form is shown again behind a route that matches its page and passes it on', async () => {
    const routes = await textOf(test.blog, 'routes.yaml')
    const [head = '', ...all] = routes.split(/^(?=- name: )/m)
    const general = all.find((one) => one.startsWith('- name: page\n')) ?? ''
    await saveTexts(test.blog, {
      'routes.yaml': [head, general, ...all.filter((one) => one !== general)].join(''),
    })
    const { status, body } = await page.send({ text: '' })
    expect([status, body.includes('Your comment was not sent.')]).toEqual([422, true])
    await saveTexts(test.blog, { 'routes.yaml': routes })
  })
})
