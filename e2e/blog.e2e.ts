// The demo blog in a browser: without scripts, with scripts, at three widths, light and dark.
import { expect } from '@playwright/test'
import { WCAG, faultsForAxe, test } from './fixtures.ts'

test.describe('without scripts', () => {
  test.use({ javaScriptEnabled: false })
  test('the journal can be read, paged and commented on', async ({ page, blog }) => {
    await page.goto(blog('/'))
    await expect(page.locator('article.card')).toHaveCount(5)
    await page.getByRole('link', { name: 'All posts in the journal' }).click()
    await page.getByRole('link', { name: 'Older' }).click()
    await expect(page).toHaveURL(blog('/posts?page=2'))
    await page.goto(blog('/posts/the-hub-that-clicked-every-second-turn'))
    await expect(page.getByRole('heading', { name: '3 comments' })).toBeVisible()
    await page.getByLabel('Your name').fill('Vera')
    await page.getByLabel('Your comment').fill('No script, no trouble. <script>alert(1)</script>')
    await page.getByRole('button', { name: 'Send comment' }).click()
    await expect(page).toHaveURL(/#comment-\d+$/)
    await expect(page.getByRole('heading', { name: '4 comments' })).toBeVisible()
    await expect(page.locator('.comments li').last()).toContainText(
      'No script, no trouble. <script>alert(1)</script>',
    )
  })
})

test('with scripts, a comment appears without a reload, and a typed script does not run', async ({
  page,
  blog,
}) => {
  const dialogs: string[] = []
  page.on('dialog', (dialog) => {
    dialogs.push(dialog.message())
    void dialog.dismiss()
  })
  await page.goto(blog('/posts/a-bicycle-bell-is-four-parts'))
  await page.evaluate(() => document.body.setAttribute('data-same-page', 'yes'))
  await page.getByLabel('Your name').fill('<img src=x onerror=alert(1)>')
  await page.getByLabel('Your comment').fill('"><svg onload=alert(2)>')
  await page.getByRole('button', { name: 'Send comment' }).click()
  await expect(page.getByRole('status')).toHaveText('Thank you. Your comment was added.')
  await expect(page.locator('.comments li').last()).toContainText('"><svg onload=alert(2)>')
  await expect(page.locator('body[data-same-page=yes]')).toHaveCount(1)
  expect(dialogs).toEqual([])
})

test('a comment without a name is returned with an error and the typed text', async ({ page, blog }) => {
  await page.goto(blog('/posts/moth'))
  await page.locator('form.say').evaluate((form) => form.setAttribute('novalidate', ''))
  await page.getByLabel('Your comment').fill('I typed all this')
  await page.getByRole('button', { name: 'Send comment' }).click()
  await expect(page.getByText('Enter a name to show with your comment.')).toBeVisible()
  await expect(page.getByLabel('Your comment')).toHaveValue('I typed all this')
})

for (const [width, scheme] of [
  [390, 'light'],
  [820, 'dark'],
  [1280, 'light'],
  [1280, 'dark'],
] as const) {
  test(`at ${width} pixels, ${scheme}: nothing overflows, and axe finds nothing`, async ({
    browser,
    blog,
  }) => {
    const page = await (
      await browser.newContext({ viewport: { width, height: 900 }, colorScheme: scheme })
    ).newPage()
    for (const path of [
      '/',
      '/posts?page=3',
      '/posts/the-toaster-inquest',
      '/open-days',
      '/search?q=glue',
      '/nowhere',
    ]) {
      await page.goto(blog(path))
      const overflow = await page.evaluate(
        () => document.documentElement.scrollWidth - document.documentElement.clientWidth,
      )
      expect(overflow, path).toBeLessThanOrEqual(0)
      expect(await faultsForAxe(page, WCAG), path).toEqual([])
    }
    await page.close()
  })
}
