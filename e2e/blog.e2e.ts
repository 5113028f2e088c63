// The demo blog in a browser: without scripts, with scripts, at three widths, light and dark.
import { createServer } from 'node:http'
import type { AddressInfo } from 'node:net'
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

test('what a text embeds is loaded when a reader opens it, and only from the list', async ({
  page,
  blog,
  api,
}) => {
  const requested: string[] = []
  const films = createServer((request, response) => {
    requested.push(request.url ?? '')
    response.setHeader('content-type', 'text/html')
    response.end(
      '<!doctype html><p id="p">…</p><script>document.getElementById("p").textContent = "A film"</script>',
    )
  })
  await new Promise<void>((done) => films.listen(0, '127.0.0.1', done))
  const origin = `http://127.0.0.1:${(films.address() as AddressInfo).port}`
  const { text, version } = (await (await api.get('/api/document?path=blog.yaml')).json()) as {
    text: string
    version: number
  }
  const listed = `${text}embeds:\n  - { name: Film, address: '${origin}/watch/:film', frame: '${origin}/player/:film' }\n`
  const put = await api.put('/api/document', { data: { path: 'blog.yaml', text: listed, version } })
  expect(put.status()).toBe(200)
  const body = `Look.\n\n${origin}/watch/kettle\n\n${origin}/other/kettle\n\n<iframe src="${origin}/typed"></iframe>`
  const matter = { title: 'A film', slug: 'a-film', published: 'now' }
  expect((await api.post('/api/posts', { data: { matter, body } })).status()).toBe(200)

  const blocked: string[] = []
  page.on('console', (message) => {
    if (message.type() === 'error') blocked.push(message.text())
  })
  await page.goto(blog('/posts/a-film'))
  await expect(page.locator('iframe')).toHaveCount(1)
  await page.waitForLoadState('networkidle')
  expect(requested).toEqual([])
  await page.getByText('Film', { exact: true }).click()
  await expect(page.frameLocator('iframe[title=Film]').getByText('A film')).toBeVisible()
  expect([requested, blocked]).toEqual([['/player/kettle'], []])
  expect(await faultsForAxe(page, WCAG)).toEqual([])
  films.close()
  films.closeAllConnections()
})
