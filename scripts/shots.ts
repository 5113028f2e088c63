/** Takes a screenshot of each main view, from a fresh demo. */
import { chmodSync, mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { chromium, type Page } from '@playwright/test'
import { findBinaries } from '../server/store/cluster.ts'
import { start, type Running } from '../server/start.ts'
import { CHROMIUM, untilLoaded } from './chromium.ts'
import { root } from './dependencies.mjs'
import { buildIfStale } from './front-end.ts'
import { bundleServer } from './bundles.ts'

const KEY = 'shots'
const folder = join(root, 'docs/screenshots')
const shot = async (page: Page, name: string) => {
  await page.waitForTimeout(700)
  await page.screenshot({ path: join(folder, `${name}.png`) })
}

/** Makes typical mistakes: a print page without “published”, a route below a more general one, a typed link. */
async function makeFaulty(workbench: string): Promise<void> {
  const api = async (method: string, path: string, body?: unknown) => {
    const response = await fetch(`${workbench}/api/${path}`, {
      method,
      headers: { authorization: `Bearer ${KEY}`, 'content-type': 'application/json' },
      ...(body === undefined ? {} : { body: JSON.stringify(body) }),
    })
    if (!response.ok) throw new Error(await response.text())
    return (await response.json()) as { text: string; version: number }
  }
  const changed = async (path: string, change: (text: string) => string) => {
    const { text, version } = await api('GET', `document?path=${encodeURIComponent(path)}`)
    return { do: 'save-document', document: path, text: change(text), version }
  }
  const steps = [
    await changed('routes.yaml', (text) =>
      text.replace(
        '- name: add-comment',
        `- { name: latest, path: /posts/latest, data: { latest: latest-posts }, template: pages/not-found }
- { name: print, path: '/posts/:slug/print', params: { slug: slug }, data: { post: post-for-print }, template: pages/post }

- name: add-comment`,
      ),
    ),
    {
      do: 'save-document',
      document: 'queries/post-for-print.yaml',
      text: 'from: posts\nwith: [category, author]\nwhere:\n  - { field: slug, is: equal, to: ":slug" }\ntake: one\nempty: not-found\n',
      version: 0,
    },
    await changed('templates/partials/card.liquid', (text) =>
      text.replace('</article>', '<a href="/post/first-open-day">How it began</a></article>'),
    ),
  ]
  await api('POST', 'changes', { steps })
  await api('POST', 'checks/run', {})
}

/** Starts a blog in a folder of its own. */
async function begin(firstBlog: string): Promise<{ running: Running; end(): Promise<void> }> {
  const data = mkdtempSync(join(tmpdir(), 'esquina-shots-'))
  chmodSync(data, 0o755)
  const running = await start({
    root,
    binaries: findBinaries(),
    data,
    host: '127.0.0.1',
    port: 4310,
    blogPort: 4311,
    databaseUrl: undefined,
    key: KEY,
    firstBlog,
    say: () => undefined,
  })
  const end = async () => {
    await running.stop()
    rmSync(data, { recursive: true, force: true })
  }
  return { running, end }
}

/** Takes the first steps of a new blog. */
async function takeFirstSteps(page: Page): Promise<void> {
  const { running, end } = await begin('demo/blank')
  try {
    await page.goto(`${running.workbench}/sign-in?key=${KEY}`)
    await page.getByRole('button', { name: 'Add sample posts' }).click()
    const current = page.locator('li[aria-current="step"]')
    for (const title of ['Layout and style', 'A list of posts']) {
      await current.filter({ hasText: title }).getByRole('button', { name: 'Show the change' }).click()
      await current.getByRole('button', { name: 'Apply' }).click()
    }
    await current.filter({ hasText: 'One post' }).waitFor()
    await page.getByText('The list of posts was added.').waitFor()
    await page.locator('.ant-notification-notice-close').last().click()
    await page.locator('.ant-notification-notice').waitFor({ state: 'detached' })
    await shot(page, 'first-steps')
  } finally {
    await end()
  }
}

export async function run(): Promise<void> {
  await buildIfStale(root)
  await bundleServer(root)
  const { running, end } = await begin('demo/cobble-lane')
  const chrome = await chromium.launch(CHROMIUM)
  const open = async (width: number, height: number, colorScheme: 'light' | 'dark' = 'light') =>
    await (await chrome.newContext({ viewport: { width, height }, colorScheme })).newPage()
  try {
    const reader = await open(1280, 800)
    for (const [path, name] of [
      ['/posts?page=2', 'blog'],
      ['/posts/the-toaster-inquest', 'blog-post'],
    ] as const) {
      await reader.goto(running.blog + path)
      await shot(reader, name)
    }
    const phone = await open(390, 800)
    await phone.goto(`${running.blog}/`)
    await shot(phone, 'blog-phone')
    for (const path of ['/posts/zip-surgery', '/post/first-open-day', '/category/textiles'])
      await reader.goto(running.blog + path)

    const page = await open(1280, 800)
    await page.goto(`${running.workbench}/sign-in?key=${KEY}`)
    await page.waitForURL('**/walk*')
    await page.getByRole('heading', { name: /^Response/ }).waitFor()
    await page.getByRole('button', { name: 'Walk ↵' }).click()
    await shot(page, 'walk')
    await page.goto(
      `${running.workbench}/templates?open=templates/partials/card.liquid&line=6&path=${encodeURIComponent('/posts?page=2')}`,
    )
    await page.getByRole('button', { name: 'Show what post has' }).click()
    await page.frameLocator('iframe[title^="Preview"]').getByText('card:6').waitFor()
    await shot(page, 'templates')
    await page.goto(`${running.workbench}/cache`)
    // Computing what refreshes what takes a moment.
    await page.locator('.matrix table').waitFor()
    await shot(page, 'cache')
    await page.goto(`${running.workbench}/walk`)
    await page.getByRole('button', { name: 'Change what a card shows' }).click()
    await page.locator('.cm-line', { hasText: 'post.excerpt' }).click()
    await page.keyboard.press('End')
    await page.keyboard.press('Enter')
    await page.keyboard.type('<p class="meta">{{ post.wordCount | reading_minutes }} min to read</p>')
    await page.keyboard.press('Control+s')
    await page.getByText('templates/partials/card.liquid was saved.').waitFor()
    await shot(page, 'walk-saved')
    await page.goto(`${running.workbench}/changes`)
    await page.getByRole('button', { name: /card\.liquid changed/ }).click()
    await shot(page, 'changes')
    const dark = await open(1280, 800, 'dark')
    await dark.goto(`${running.workbench}/sign-in?key=${KEY}`)
    await dark.waitForURL('**/walk*')
    await dark.getByRole('heading', { name: /^Response/ }).waitFor()
    await shot(dark, 'walk-dark')
    await page.goto(`${running.workbench}/content?post=a-visible-darn-worth-showing-off`)
    await page.getByRole('heading', { name: 'Where it appears' }).waitFor()
    await shot(page, 'content')
    await page.goto(`${running.workbench}/queries?open=queries/posts-in-category.yaml`)
    await untilLoaded(page)
    await shot(page, 'queries')
    await page.goto(`${running.workbench}/walk?path=/posts/moth&as=commenter`)
    const form = page.getByRole('form', { name: 'Comment form to walk' })
    await form.getByLabel('Name').fill('Vera')
    await form.getByLabel('Text', { exact: true }).fill('Cedar balls helped here, for what it is worth.')
    await form.getByRole('button', { name: 'Rehearse' }).click()
    await page.locator('#stage-submission').scrollIntoViewIfNeeded()
    await shot(page, 'walk-commenter')
    await page.goto(`${running.workbench}/comments`)
    await page.frameLocator('iframe[title]').getByText('Lovely write-up').waitFor()
    await shot(page, 'comments')
    await page.goto(`${running.workbench}/comments?state=rules`)
    await page.frameLocator('iframe[title]').getByText('Add a comment').waitFor()
    await shot(page, 'comments-rules')
    await page.goto(`${running.workbench}/queries?open=queries/posts-of-month.yaml`)
    await page.getByRole('tab', { name: 'Growth' }).click()
    await page.getByRole('button', { name: 'Measure' }).click()
    await page.locator('.growth .recharts-line').first().waitFor({ timeout: 300_000 })
    await shot(page, 'queries-growth')
    await page.goto(`${running.workbench}/routes?route=post`)
    await shot(page, 'route')
    await makeFaulty(running.workbench)
    await page.goto(`${running.workbench}/routes`)
    await page.getByText('unreachable', { exact: true }).first().waitFor()
    await shot(page, 'routes')
    await page.goto(`${running.workbench}/checks`)
    await shot(page, 'checks')
  } finally {
    await end()
  }
  try {
    await takeFirstSteps(await open(1280, 800))
  } finally {
    await chrome.close()
  }
}
