// The demo blog in a browser: without scripts, with scripts, at three widths, light and dark.
import { expect } from '@playwright/test'
import { WCAG, faultsForAxe, test } from './fixtures.ts'

test.describe('without scripts', () => {
  test.use({ javaScriptEnabled: false })
  test('the journal can be read and paged', async ({ page, blog }) => {
    await page.goto(blog('/'))
    await expect(page.locator('article.card')).toHaveCount(5)
    await page.getByRole('link', { name: 'All posts in the journal' }).click()
    await page.getByRole('link', { name: 'Older' }).click()
    await expect(page).toHaveURL(blog('/posts?page=2'))
  })
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

for (const [width, density, expected] of [
  [390, 1, '480.avif'],
  [390, 2, '960.avif'],
  [1280, 1, '960.avif'],
] as const)
  test(`at ${width} pixels and density ${density}, an image in a text is loaded near its size, when it comes near`, async ({
    browser,
    blog,
  }) => {
    const context = await browser.newContext({
      viewport: { width, height: 800 },
      deviceScaleFactor: density,
    })
    const page = await context.newPage()
    const requested: string[] = []
    page.on('request', (request) => {
      if (request.url().includes('/shelf.jpg')) requested.push(request.url())
    })
    await page.goto(blog('/posts/our-first-hundred-saturdays'))
    const image = page.getByRole('img', { name: /^A shelf/ })
    await image.scrollIntoViewIfNeeded()
    await expect.poll(() => image.evaluate((one: HTMLImageElement) => one.naturalWidth > 0)).toBe(true)
    expect(requested).toEqual([blog(`/media/shelf.jpg/${expected}`)])
    await expect(page.locator('figcaption')).toHaveText('The shelf of things that went home working')
    await context.close()
  })
