// Comments in a browser: without scripts, with scripts, and when the network fails.
import { expect, type Locator, type Page } from '@playwright/test'
import { WCAG, faultsForAxe, test } from './fixtures.ts'

const POST = '/posts/the-cuckoo-that-came-out-backwards'
const WAITS = 'Thank you. Your comment will appear once it is approved. Until then, only you can see it.'

async function write(page: Page, name: string, text: string): Promise<void> {
  await page.getByLabel('Your name').fill(name)
  await page.getByLabel('Your comment').fill(text)
  await page.getByRole('button', { name: 'Send comment' }).click()
}
const own = (page: Page): Locator => page.locator('.mine li')

test.describe('without scripts', () => {
  test.use({ javaScriptEnabled: false })
  test('a comment is previewed, sent, changed, replied to and deleted', async ({ page, blog }) => {
    await page.goto(blog(POST))
    await expect(page.getByRole('heading', { name: '5 comments' })).toBeVisible()
    await page.getByLabel('Your name').fill('Vera')
    await page.getByLabel('Remember my name').check()
    await page.getByLabel('Your comment').fill('No *script*, no trouble. <script>alert(1)</script>')
    await page.getByRole('button', { name: 'Preview' }).click()
    await expect(page.getByRole('group', { name: 'Preview' })).toContainText(
      'No script, no trouble. <script>',
    )
    await page.getByRole('button', { name: 'Send comment' }).click()
    await expect(page).toHaveURL(/\/posts\/the-cuckoo-that-came-out-backwards#comment-\d+$/)
    await expect(own(page)).toContainText('waiting for approval')
    await expect(page.getByLabel('Your name')).toHaveValue('Vera')
    await own(page).getByRole('button', { name: 'Edit' }).click()
    await page.getByLabel('Your comment').fill('Changed my mind')
    await page.getByRole('button', { name: 'Save changes' }).click()
    await expect(own(page)).toContainText('Changed my mind')
    await page.getByRole('link', { name: 'Reply to Dot' }).click()
    await expect(page.getByRole('heading', { name: 'Reply to Dot' })).toBeVisible()
    await page.getByLabel('Your comment').fill('So would I')
    await page.getByRole('button', { name: 'Send comment' }).click()
    await expect(own(page)).toHaveCount(2)
    await own(page).first().getByRole('button', { name: 'Delete' }).click()
    await expect(own(page)).toHaveCount(1)
    await expect(page.getByRole('heading', { name: '5 comments' })).toBeVisible()
  })
})

test('a comment appears without a reload, is announced, and keeps the focus', async ({ page, blog }) => {
  const dialogs: string[] = []
  page.on('dialog', (dialog) => {
    dialogs.push(dialog.message())
    void dialog.dismiss()
  })
  await page.goto(blog(POST))
  await page.evaluate(() => document.body.setAttribute('data-same-page', 'yes'))
  await page.getByLabel('Your name').fill('<img src=x onerror=alert(1)>')
  await page.getByLabel('Your comment').fill('"><svg onload=alert(2)>')
  await page.getByRole('button', { name: 'Send comment' }).press('Enter')
  await expect(page.getByRole('status')).toHaveText(WAITS)
  await expect(own(page)).toContainText('"><svg onload=alert(2)>')
  await expect(page.getByRole('button', { name: 'Send comment' })).toBeFocused()
  await expect(page.getByLabel('Your comment')).toHaveValue('')
  await expect(page.locator('body[data-same-page=yes]')).toHaveCount(1)
  // What is shown is what a reload shows.
  const shown = await page.locator('[data-live=comments]').innerHTML()
  await page.reload()
  const withoutTokens = (html: string) => html.replace(/value="[^"]*"|just now|\d+ seconds? ago/g, '')
  expect(withoutTokens(await page.locator('[data-live=comments]').innerHTML())).toBe(withoutTokens(shown))
  expect(dialogs).toEqual([])
})

test('the first comment of a known writer replaces “No comments yet”, and counts follow', async ({
  page,
  blog,
  api,
}) => {
  await page.goto(blog('/posts/the-button-jar'))
  await write(page, 'Vera', 'First')
  await expect(page.getByRole('status')).toHaveText(WAITS)
  const path = 'blog.yaml'
  const { text, version } = (await (await api.get(`/api/document?path=${path}`)).json()) as {
    text: string
    version: number
  }
  const rules = text.replace('show: known-writers', 'show: at-once').replace('fill-time: 3s', 'fill-time: 0s')
  expect((await api.put('/api/document', { data: { path, text: rules, version } })).status()).toBe(200)
  const count = async () =>
    Number(/\d+/.exec((await page.locator('[data-live=count]').textContent()) ?? '')?.[0])
  await page.reload()
  const before = await count()
  await write(page, 'Vera', 'Second')
  await expect(page.getByRole('status')).toHaveText('Thank you. Your comment was added.')
  expect(await count()).toBe(before + 1)
  await expect(page.locator('[data-live=count-above]')).toHaveText(`${before + 1} comments`)
  await expect(page.locator('[data-live=comments] > ol').first().locator('li').last()).toContainText('Second')
})

test('errors are shown beside their fields and in a summary, which gets the focus', async ({
  page,
  blog,
}) => {
  await page.goto(blog(POST))
  await page.getByLabel('Your comment').fill('I typed all this')
  await page.getByRole('button', { name: 'Send comment' }).click()
  const summary = page.getByRole('alert')
  await expect(summary).toContainText('Enter a name to show with your comment.')
  await expect(summary).toBeFocused()
  await expect(page.getByLabel('Your name')).toHaveAttribute('aria-invalid', 'true')
  await expect(page.getByLabel('Your comment')).toHaveValue('I typed all this')
  expect(await faultsForAxe(page, WCAG)).toEqual([])
  await page.getByLabel('Your name').fill('Vera')
  await page.getByRole('button', { name: 'Preview' }).click()
  await expect(page.getByRole('group', { name: 'Preview' })).toBeFocused()
  expect(await faultsForAxe(page, WCAG)).toEqual([])
  await page.getByRole('button', { name: 'Send comment' }).click()
  await expect(own(page)).toContainText('I typed all this')
  expect(await faultsForAxe(page, WCAG)).toEqual([])
})

test('a failing network loses nothing, a slow one sends once, and an answer that is lost is found again', async ({
  page,
  blog,
  context,
}) => {
  await page.goto(blog(POST))
  await page.getByLabel('Your name').fill('Vera')
  await page.getByLabel('Your comment').fill('Kept')
  await context.setOffline(true)
  await page.getByRole('button', { name: 'Send comment' }).click()
  await expect(page.getByRole('status')).toContainText(
    'The blog does not respond. Your comment is still here',
  )
  await expect(page.getByLabel('Your comment')).toHaveValue('Kept')
  await context.setOffline(false)
  // The server gets the comment, and the answer is lost.
  await page.route('**/comments', async (route) => {
    await route.fetch({ maxRedirects: 0 })
    await route.abort()
  })
  await page.getByRole('button', { name: 'Send comment' }).click()
  await expect(page.getByRole('status')).toContainText('The blog does not respond')
  await page.unroute('**/comments')
  await page.route('**/comments', async (route) => {
    await new Promise((done) => setTimeout(done, 600))
    await route.continue()
  })
  await page.getByRole('button', { name: 'Send comment' }).dblclick()
  await expect(page.getByRole('status')).toHaveText(WAITS)
  await expect(own(page)).toHaveCount(1)
  await page.reload()
  await expect(own(page)).toHaveCount(1)
})
