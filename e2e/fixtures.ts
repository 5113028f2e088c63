/** What every browser test has: Esquina with the demo of its own, so that no test finds what another one left. */
import { fork, type ChildProcess } from 'node:child_process'
import { join } from 'node:path'
import AxeBuilder from '@axe-core/playwright'
import { expect, test as base, type APIRequestContext, type Page } from '@playwright/test'
import type { Asked, Started, Told } from './host.ts'

export const KEY = 'browser-tests'

interface Host {
  start(): Promise<Started>
  stop(): Promise<void>
}

interface Fixtures {
  esquina: Started
  /** The address of a path of the blog. */
  blog: (path: string) => string
  /** The API of the workbench, signed in. */
  api: APIRequestContext
}

export const test = base.extend<Fixtures, { host: Host }>({
  host: [
    // eslint-disable-next-line no-empty-pattern -- Playwright reads what a fixture needs from this pattern
    async ({}, use) => {
      const child = fork(join(import.meta.dirname, 'host.mjs'), { execArgv: [], stdio: 'inherit' })
      await use({
        async start() {
          const told = await ask(child, { is: 'start', key: KEY })
          if (told.is !== 'started') throw new Error(`it was ${told.is}`)
          return told.started
        },
        stop: () => ask(child, { is: 'stop' }).then(() => undefined),
      })
      child.disconnect()
    },
    { scope: 'worker', timeout: 120_000 },
  ],
  esquina: [
    async ({ host }, use) => {
      await use(await host.start())
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
  /** No script of a page may fail, whatever the test looks at. */
  page: async ({ page }, use) => {
    const faults: string[] = []
    page.on('pageerror', (error) => faults.push(error.message))
    await use(page)
    expect(faults).toEqual([])
  },
})

function ask(child: ChildProcess, asked: Asked): Promise<Told> {
  return new Promise((done, fail) => {
    const ended = (code: number | null) => fail(new Error(`the host of the blog ended with ${code}`))
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
  const answer = await page.context().request.get(`/sign-in?key=${KEY}`, { maxRedirects: 0 })
  expect(answer.status()).toBe(303)
}

/** What axe finds wrong with the open page (frames aside), a line a rule; `tags` narrow its rules. */
export async function faultsForAxe(page: Page, tags?: string[]): Promise<string[]> {
  // “Legacy” leaves out only what is for frames of other origins, and opens no page of its own for it.
  const axe = new AxeBuilder({ page }).exclude('iframe').setLegacyMode()
  const { violations } = await (tags ? axe.withTags(tags) : axe).analyze()
  return violations.map(
    (one) =>
      `${one.id}: ${one.nodes
        .map((node) => node.html)
        .join(' ')
        .slice(0, 300)}`,
  )
}

/** Levels A and AA of the WCAG. */
export const WCAG = ['wcag2a', 'wcag2aa']
