// Faults that only a browser can tell are found in Chromium, and requests of a page reach nothing but the blog.
import { execFileSync } from 'node:child_process'
import { createServer } from 'node:http'
import type { AddressInfo } from 'node:net'
import { afterAll, beforeAll, expect, it, vi } from 'vitest'
import type { CheckReport } from '../../contract/checks.ts'
import { saveTexts, textOf } from '../testing/edits.ts'
import { testWorkbench, type TestWorkbench } from '../testing/workbench.ts'
import { findChromium } from './chromium.ts'

let test: TestWorkbench
beforeAll(async () => {
  test = await testWorkbench()
  test.checks.follow()
})
afterAll(async () => {
  await test.checks.stop()
  await test.close()
})

const css = 'assets/blog.css'
const post = 'templates/pages/post.liquid'
const layout = 'templates/layouts/base.liquid'

async function found() {
  const started = await test.api<CheckReport>('POST', '/api/checks/browser')
  expect([started.status, started.answer.browser.running]).toEqual([200, { done: 0, total: 0 }])
  await test.checks.browser.ended()
  const { findings, failed } = test.checks.browser.state
  expect(failed).toBeNull()
  return findings
}

/** Changes the demo, returns what is found, and undoes the change. */
async function foundWith(changes: Record<string, (text: string) => string>) {
  const before: Record<string, string> = {}
  const after: Record<string, string> = {}
  for (const [path, change] of Object.entries(changes)) {
    before[path] = await textOf(test.blog, path)
    after[path] = change(before[path])
    expect(after[path]).not.toBe(before[path])
  }
  expect((await saveTexts(test.blog, after, { insist: true })).ok).toBe(true)
  const findings = await found()
  await saveTexts(test.blog, before)
  return findings
}

it('nothing is wrong with the demo, and the report says on how many pages', async () => {
  expect(await found()).toEqual([])
  const { answer } = await test.api<CheckReport>('GET', '/api/checks')
  const proven = answer.proven.find((one) => one.rule === 'contrast-low')
  expect(proven?.count).toMatch(/^\d\d of \d+ pages$/)
  expect(proven?.sample).toContain('of each route')
  expect(answer.browser).toMatchObject({ running: null, isOutdated: false, failed: null })
})

it('faults are found with what was measured, the line that causes them, and no request leaves', async () => {
  let requests = 0
  const other = createServer((_, response) => (requests++, response.end()))
  await new Promise<void>((done) => other.listen(0, '127.0.0.1', done))
  const origin = `http://127.0.0.1:${(other.address() as AddressInfo).port}`
  const findings = await foundWith({
    // Of the dark scheme.
    [css]: (text) =>
      `${text.replace('--muted: #a9adb4', '--muted: #5a5e66')}\n.wide { width: 600px } .scrolls { overflow: auto }\n* { transition: color 5s, background-color 5s }\n`,
    [layout]: (text) =>
      text.replace('</head>', `<link rel="preload" as="image" href="${origin}/a.png"></head>`),
    [post]: (text) =>
      text.replace(
        /(<article[^>]*>)/,
        '$1\n<p class="wide">Wide</p><a href="/" role="checkbox">Back</a><div class="scrolls"><p class="wide">Cut</p></div>',
      ),
    'assets/comments.js': (text) =>
      `${text}\nvoid fetch('${origin}/b').catch(() => undefined); new Image().src = '${origin}/c'\nif (location.pathname === '/') nothing.like.this()\n`,
  })
  other.close()
  expect(requests).toBe(0)
  const by = (rule: string) => findings.filter((one) => one.rule === rule)
  const meta = by('contrast-low').find((one) => one.subject.endsWith('p.meta'))
  // Relative luminance and ratio as WCAG 2.2 defines them.
  expect(meta?.witness).toMatchObject({
    actual: `${ratio('#5a5e66', '#1d2025')}:1`,
    expected: 'at least 4.5:1',
    text: expect.stringContaining('in the dark colour scheme') as string,
  })
  expect(meta?.cause).toContain('color: var(--muted)')
  expect(meta?.place?.document).toBe(css)
  const line = (await textOf(test.blog, css)).split('\n')[(meta?.place?.line ?? 0) - 1]
  expect(line).toContain('.meta')
  expect(meta?.others.length).toBeGreaterThan(2)
  expect(by('page-overflows')).toHaveLength(1)
  expect(by('page-overflows')[0]).toMatchObject({
    detail: 'The page contains <p class="wide">',
    place: { document: post },
    witness: { expected: '320px' },
  })
  expect(by('script-fails')).toMatchObject([{ title: '/: A script fails: nothing is not defined' }])
  expect(by('page-inaccessible').map((one) => one.subject)).toContain('aria-required-attr a')
})

it('a result is marked as outdated after a change, and a run can be cancelled', async () => {
  await saveTexts(test.blog, { [css]: `${await textOf(test.blog, css)}\n` })
  await expect.poll(() => test.checks.browser.state.isOutdated, { timeout: 30_000 }).toBe(true)
  const { answer } = await test.api<CheckReport>('GET', '/api/checks')
  expect(answer.proven.some((one) => one.rule === 'contrast-low')).toBe(false)
  await test.api('POST', '/api/checks/browser')
  await expect
    .poll(() => test.checks.browser.state.running?.total ?? 0, { timeout: 60_000 })
    .toBeGreaterThan(0)
  const cancelled = await test.api<CheckReport>('DELETE', '/api/checks/browser')
  expect(cancelled.answer.browser).toMatchObject({ running: null, failed: null, isOutdated: true })
  // Its own Chromium has ended: it is a child of this process.
  await expect
    .poll(() => children().filter((one) => one.includes('chromium')), { timeout: 30_000 })
    .toEqual([])
})

it('Chromium is one that can be executed', () => {
  expect(findChromium()).toMatch(/chrom/)
  expect(findChromium('/nowhere/chromium')).toBeUndefined()
  expect(findChromium(import.meta.filename)).toBeUndefined()
})

it('without Chromium, the operation is refused with what to install', async () => {
  vi.stubEnv('ESQUINA_CHROMIUM', '/nowhere/chromium')
  const { status, answer } = await test.api('POST', '/api/checks/browser')
  expect([status, answer['code'], answer['detail']]).toEqual([
    422,
    'browser-missing',
    expect.stringContaining('apt install chromium') as string,
  ])
  const { answer: report } = await test.api<CheckReport>('GET', '/api/checks')
  expect(report.browser.isInstalled).toBe(false)
  vi.unstubAllEnvs()
})

const children = () =>
  execFileSync('ps', ['--ppid', String(process.pid), '-o', 'args='], { encoding: 'utf8' })
    .split('\n')
    .filter((one) => !one.startsWith('ps '))

/** The contrast of two colours (WCAG 2.2, “contrast ratio” and “relative luminance”), to two places, rounded down. */
function ratio(a: string, b: string): number {
  const luminance = (colour: string) => {
    const [red = 0, green = 0, blue = 0] = [1, 3, 5].map((at) => {
      const part = parseInt(colour.slice(at, at + 2), 16) / 255
      return part <= 0.04045 ? part / 12.92 : ((part + 0.055) / 1.055) ** 2.4
    })
    return 0.2126 * red + 0.7152 * green + 0.0722 * blue
  }
  const [light = 0, dark = 0] = [luminance(a), luminance(b)].sort((x, y) => y - x)
  return Math.floor(((light + 0.05) / (dark + 0.05)) * 100) / 100
}
