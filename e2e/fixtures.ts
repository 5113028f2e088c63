/** Fixtures of the browser tests. Each test has its own server with the demo, so tests do not affect each other. */
import { fork, type ChildProcess } from 'node:child_process'
import { join } from 'node:path'
import AxeBuilder from '@axe-core/playwright'
import { expect, test as base, type APIRequestContext, type Page } from '@playwright/test'
import { untilLoaded } from '../scripts/chromium.ts'
import type { Asked, Kind, Started, Told } from './host.ts'

export const KEY = 'browser-tests'

interface Host {
  start(kind: Kind): Promise<Started>
  stop(): Promise<void>
}

interface Fixtures {
  /** Which blog a test starts with. */
  kind: Kind
  esquina: Started
  /** Returns the address of a path of the blog. */
  blog: (path: string) => string
  /** The workbench’s API, with the access key. */
  api: APIRequestContext
}

export const test = base.extend<Fixtures, { host: Host }>({
  host: [
    // eslint-disable-next-line no-empty-pattern -- Playwright reads what a fixture needs from this pattern
    async ({}, use) => {
      const child = fork(join(import.meta.dirname, 'host.mjs'), { execArgv: [], stdio: 'inherit' })
      await use({
        async start(kind) {
          const told = await ask(child, { is: 'start', key: KEY, kind })
          if (told.is !== 'started') throw new Error(`The host answered “${told.is}”.`)
          return told.started
        },
        stop: () => ask(child, { is: 'stop' }).then(() => undefined),
      })
      child.disconnect()
    },
    { scope: 'worker', timeout: 120_000 },
  ],
  kind: ['demo', { option: true }],
  esquina: [
    async ({ host, kind }, use) => {
      await use(await host.start(kind))
      await host.stop()
    },
    { timeout: 120_000 },
  ],
  baseURL: ({ esquina }, use) => use(esquina.workbench),
  blog: ({ esquina }, use) => use((path) => esquina.blog + path),
  api: async ({ esquina, playwright }, use) => {
    const api = await playwright.request.newContext({
      baseURL: esquina.workbench,
      extraHTTPHeaders: { authorization: `Bearer ${KEY}` },
    })
    await use(api)
    await api.dispose()
  },
  /** Fails the test if any script of a page throws. */
  page: async ({ page }, use) => {
    const faults: string[] = []
    page.on('pageerror', (error) => faults.push(error.message))
    await use(page)
    expect(faults).toEqual([])
  },
})

function ask(child: ChildProcess, asked: Asked): Promise<Told> {
  return new Promise((done, fail) => {
    const ended = (code: number | null) => fail(new Error(`The host process ended with code ${code}.`))
    child.once('exit', ended)
    child.once('message', (told: Told) => {
      child.off('exit', ended)
      if (told.is === 'failed') fail(new Error(told.why))
      else done(told)
    })
    child.send(asked)
  })
}

/** Signs in without opening a page. */
export async function signIn(page: Page): Promise<void> {
  const answer = await page.context().request.post('/api/sign-in', { data: { key: KEY } })
  expect(answer.status()).toBe(200)
  const { secret } = (await answer.json()) as { secret: string }
  const { origin } = new URL(answer.url())
  await page.context().addInitScript(
    ([own, value]) => {
      if (location.origin === own && localStorage.getItem('esquina session') === null)
        localStorage.setItem('esquina session', value)
    },
    [origin, secret] as const,
  )
}

/** Returns what axe finds on the open page without its frames, one line per rule. `tags` restrict the rules. */
export async function faultsForAxe(page: Page, tags?: string[]): Promise<string[]> {
  // What a screen of the workbench shows while it loads is not what is judged. Pages of a blog need no script.
  if ((await page.locator('#root').count()) > 0) await untilLoaded(page)
  // Legacy mode only omits frames of other origins, and opens no page of its own.
  const axe = new AxeBuilder({ page })
    .exclude('iframe')
    .setLegacyMode()
    // Neither is among the tags: what is shown on a control is in its name (WCAG 2.2, 2.5.3), and a screen has a heading.
    .options({
      rules: { 'label-content-name-mismatch': { enabled: true }, 'page-has-heading-one': { enabled: true } },
    })
  const { violations } = await (tags ? axe.withTags(tags) : axe).analyze()
  return violations.map(
    (one) =>
      `${one.id}: ${one.nodes
        .map((node) => node.html)
        .join(' ')
        .slice(0, 300)}`,
  )
}

/** Returns the page shown in a page frame, without the frame that is still loading. */
export const pageIn = (page: Page) => page.frameLocator('.page-frame iframe[title]')

/** Levels A and AA of the WCAG. */
export const WCAG = ['wcag2a', 'wcag2aa']
