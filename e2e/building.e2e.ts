// A new blog is built in the browser with the steps alone: from nothing to a styled blog with a list that has pages,
// categories and comments.
import { expect, type Page } from '@playwright/test'
import { DRAFTED_STEPS } from '../core/shapes/building.ts'
import { faultsForAxe, signIn, test } from './fixtures.ts'

test.use({ kind: 'blank' })
test.beforeEach(({ page }) => signIn(page))

const current = (page: Page) => page.locator('li[aria-current="step"]')

/** Reads the change of the current step, applies it, and waits until the blog has proven it. */
async function take(page: Page, title: string) {
  const step = page.locator('li', { has: page.getByRole('heading', { name: new RegExp(`^${title}`) }) })
  await expect(current(page)).toContainText(title)
  await current(page).getByRole('button', { name: 'Show the change' }).click()
  await expect(current(page).locator('.document-diff').first()).toBeVisible()
  await current(page).getByRole('button', { name: 'Apply' }).click()
  await expect(step).toHaveClass(/done/)
}

async function addSamples(page: Page) {
  await page.getByRole('button', { name: 'Add sample posts' }).click()
  await expect(page.getByText('10 published posts, 2 drafts')).toBeVisible()
}

test('from a new blog to one with a list, posts, categories and comments, with the steps alone', async ({
  page,
  blog,
}) => {
  test.setTimeout(480_000)
  await page.goto('/walk')
  await expect(page.getByText('Build a blog 0 of 20')).toBeVisible()
  await addSamples(page)
  await take(page, 'Layout and style')
  await take(page, 'A list of posts')
  await expect(page).toHaveURL(/path=%2Fposts/)
  await take(page, 'One post, by its slug')
  await expect(page.getByText('The address of a draft answers 404, the list shows no draft')).toBeVisible()
  await take(page, 'Pages of the list')
  await take(page, 'Categories')
  await take(page, 'Home and navigation')
  await take(page, 'Comments')
  await take(page, 'Cache')
  await take(page, 'Feeds and search engines')
  const feed = await (await page.request.get(blog('/feed.atom'))).text()
  expect(feed).toContain(`<link rel="alternate" type="text/html" href="${blog('/')}"/>`)
  await take(page, 'A page for each author')
  await take(page, 'Tags')
  await take(page, 'Archive by month')
  await take(page, 'Search')
  await expect(page.getByText(/A search for “\S+” answers 200 with [1-9]/)).toBeVisible()
  await take(page, 'Related posts')
  await take(page, 'Previous and next post')
  await expect(page.getByText('links to an older one, and to no newer one')).toBeVisible()
  await take(page, 'Most commented posts')
  await take(page, 'An aside on every page')
  await expect(page.getByText(/and its aside shows 7 categories, \d months?, 0 comments/)).toBeVisible()
  await take(page, 'The same post by number')
  await expect(page.getByText(/\/p\/\d+ answers 301 and leads to \/posts\//)).toBeVisible()
  await expect(page.getByText('Your blog has everything from this list.')).toBeVisible()

  await page.goto(blog('/'))
  await page.getByRole('link', { name: 'All posts' }).click()
  await expect(page.locator('article.card')).toHaveCount(6)
  await page.getByRole('link', { name: 'Older' }).click()
  await expect(page.locator('article.card')).toHaveCount(4)
  await page.getByRole('link', { name: 'Textiles' }).first().click()
  await expect(page.getByRole('heading', { level: 1 })).toHaveText('Textiles')
  await page.locator('article.card h2 a').first().click()
  await page.getByLabel('Your name').fill('Nadia')
  await page.getByLabel('Your comment').fill('The slider was the fault, as you said.')
  await page.waitForTimeout(3_500)
  await page.getByRole('button', { name: 'Send comment' }).click()
  await expect(page.locator('#comments').getByText('The slider was the fault, as you said.')).toBeVisible()
})

test('both looks are accessible, in both schemes, on every kind of page', async ({ page, blog, api }) => {
  test.setTimeout(480_000)
  const draft = async (step: string, look: string) => {
    const { steps } = (await (await api.post('/api/building/draft', { data: { step, look } })).json()) as {
      steps: unknown[]
    }
    if (steps.length > 0) expect((await api.post('/api/changes', { data: { steps } })).status()).toBe(200)
  }
  await api.post('/api/building/samples', { data: {} })
  for (const look of ['bench', 'ledger']) {
    for (const step of DRAFTED_STEPS) await draft(step, look)
    for (const colorScheme of ['light', 'dark'] as const) {
      await page.emulateMedia({ colorScheme })
      for (const path of [
        '/',
        '/posts',
        '/posts?page=2',
        '/posts/zip-surgery',
        '/category/textiles',
        '/about',
        '/none',
        '/author/wen-adeyemi',
        '/tag/zips',
        '/archive',
        '/search?q=zip',
      ]) {
        await page.goto(blog(path))
        expect([look, colorScheme, path, await faultsForAxe(page)]).toEqual([look, colorScheme, path, []])
        const overflow = await page.evaluate(() => document.documentElement.scrollWidth - innerWidth)
        expect([look, path, overflow]).toEqual([look, path, 0])
      }
    }
  }
})

test('a step can be skipped and taken later, and the steps can be hidden', async ({ page }) => {
  await page.goto('/walk')
  await expect(current(page)).toContainText('Something to show')
  await current(page).getByRole('button', { name: 'Skip' }).click()
  await expect(current(page)).toContainText('Layout and style')
  await page.getByRole('button', { name: 'Take this step: Something to show' }).click()
  await expect(current(page)).toContainText('Something to show')
  await page.getByRole('button', { name: 'Hide these steps' }).click()
  await expect(page.locator('.stage').first()).toBeVisible()
  await page.reload()
  await expect(page.locator('.stage').first()).toBeVisible()
  await page.getByText('Build a blog 0 of 20').click()
  await expect(page.getByRole('heading', { name: 'A list of posts' })).toBeVisible()
})
