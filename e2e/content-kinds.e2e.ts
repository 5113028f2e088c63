// Pages, categories, images and allowed HTML: after each step, the test checks what the blog shows.
import { untilLoaded } from '../scripts/chromium.ts'
import { expect, type Page } from '@playwright/test'
import { faultsForAxe, pageIn, signIn, test } from './fixtures.ts'

test.beforeEach(({ page }) => signIn(page))

const undo = async (page: Page) => {
  await page.getByRole('button', { name: 'Undo' }).last().click()
  await expect(page.getByText('The change was undone.', { exact: true }).last()).toBeVisible()
}
const rows = (page: Page) => page.locator('.tree > li b')

test('a page is written, added to the navigation, moved by keyboard, deleted and restored', async ({
  page,
  request,
  blog,
}) => {
  const nav = async () => {
    const html = await (await request.get(blog('/posts'))).text()
    return [...html.matchAll(/<nav aria-label="Main">([\s\S]*?)<\/nav>/g)].map((found) =>
      (found[1] ?? '')
        .replace(/<[^>]+>/g, ' ')
        .replace(/\s+/g, ' ')
        .trim(),
    )
  }
  await page.goto('/content/pages')
  await expect(rows(page)).toHaveCount(8)
  await page.keyboard.press('n')
  await page.getByLabel('Title', { exact: true }).fill('Lending a hand')
  await page.locator('.cm-content').click()
  await page.keyboard.type('We need **you**.')
  const preview = pageIn(page)
  await expect(preview.locator('main strong')).toHaveText('you')
  await expect(page.getByText('of a new page')).toBeVisible()
  await page.getByRole('switch').click()
  await page.keyboard.press('Control+s')
  await expect(page).toHaveURL(/page=lending-a-hand/)
  await expect(rows(page).last()).toHaveText('Lending a hand')
  expect((await nav())[0]).toMatch(/About us Lending a hand$/)
  const handle = page.getByRole('button', { name: 'Move page “Lending a hand”' })
  await handle.focus()
  await page.keyboard.press('Alt+ArrowUp')
  await expect(rows(page).nth(5)).toHaveText('Lending a hand')
  expect((await nav())[0]).toMatch(/Tool library Lending a hand About us$/)
  // Below the page before it. The address changes with it, and the old one redirects.
  await handle.focus()
  await page.keyboard.press('Alt+ArrowRight')
  await expect(page).toHaveURL(/page=tool-library%2Flending-a-hand|page=tool-library\/lending-a-hand/)
  const old = await request.get(blog('/lending-a-hand'), { maxRedirects: 0 })
  expect([old.status(), old.headers()['location']]).toEqual([301, '/tool-library/lending-a-hand'])
  await expect(
    page.getByText(/The page is now at .*tool-library\/lending-a-hand\. 1 former address redirects to it\./),
  ).toBeVisible()
  await undo(page)
  expect((await request.get(blog('/lending-a-hand'), { maxRedirects: 0 })).status()).toBe(200)
  await page.locator('.tree button.row', { hasText: 'Lending a hand' }).click()
  await page.getByRole('button', { name: 'Delete', exact: true }).click()
  await expect(rows(page)).toHaveCount(8)
  expect((await request.get(blog('/lending-a-hand'))).status()).toBe(404)
  await undo(page)
  await expect(rows(page)).toHaveCount(9)
  expect((await request.get(blog('/lending-a-hand'))).status()).toBe(200)
  await page.locator('.tree button.row', { hasText: 'Lending a hand' }).click()
  await page.getByRole('button', { name: 'Delete', exact: true }).click()
  await expect(rows(page)).toHaveCount(8)
})

test('a page is dragged before another', async ({ page }) => {
  await page.goto('/content/pages')
  const from = page.getByRole('button', { name: 'Move page “About us”' })
  const to = page.getByRole('button', { name: 'Move page “Open days”' })
  const [a, b] = [await from.boundingBox(), await to.boundingBox()]
  if (!a || !b) throw new Error('The page tree is not shown.')
  await page.mouse.move(a.x + 5, a.y + a.height / 2)
  await page.mouse.down()
  await page.mouse.move(a.x + 5, a.y - 40, { steps: 5 })
  await page.mouse.move(b.x + 5, b.y + b.height / 2, { steps: 10 })
  await page.mouse.up()
  await expect(rows(page).first()).toHaveText('About us')
  await undo(page)
  await expect(rows(page).first()).toHaveText('Open days')
})

test('a category is renamed and merged, and both are undone', async ({ page, request, blog }) => {
  const location = async (path: string) =>
    (await request.get(blog(path), { maxRedirects: 0 })).headers()['location'] ?? null
  await page.goto('/content/categories?open=clocks-and-toys')
  const name = page.getByLabel('Name')
  await expect(pageIn(page).getByText('Clocks and toys').first()).toBeVisible()
  await name.fill('Small things')
  await page.getByLabel('Slug').fill('woodwork')
  await expect(page.getByText('The category “Woodwork” has this slug.')).toBeVisible()
  await page.getByLabel('Slug').fill('small-things')
  await page.getByRole('button', { name: 'Save', exact: true }).click()
  await expect(page).toHaveURL(/open=small-things/)
  expect(await location('/category/clocks-and-toys')).toBe('/category/small-things')
  expect(await (await request.get(blog('/'))).text()).toContain('Small things')
  await page.getByLabel('Merge into another category').click()
  await page.getByTitle('Woodwork', { exact: true }).click()
  await page.getByRole('button', { name: 'Merge' }).click()
  await expect(page).toHaveURL(/open=woodwork/)
  expect(await location('/category/small-things')).toBe('/category/woodwork')
  expect(await location('/category/clocks-and-toys')).toBe('/category/woodwork')
  await undo(page)
  await expect(page).toHaveURL(/open=small-things/)
  await name.fill('Clocks and toys')
  await page.getByLabel('Slug').fill('clocks-and-toys')
  await page.getByRole('button', { name: 'Save', exact: true }).click()
  await expect(page).toHaveURL(/open=clocks-and-toys/)
  expect((await request.get(blog('/category/clocks-and-toys'), { maxRedirects: 0 })).status()).toBe(200)
})

test('a category that someone else has changed: either version can be kept', async ({ page, api }) => {
  const otherSaves = async (name: string) => {
    const url = '/api/term?kind=category&slug=lamps'
    const { version, slug, parent } = (await (await api.get(url)).json()) as Record<string, unknown>
    return (await api.put(url, { data: { version, slug, parent, name } })).status()
  }
  await page.goto('/content/categories?open=lamps')
  const name = page.getByLabel('Name')
  const save = page.getByRole('button', { name: 'Save', exact: true })
  await name.fill('Lights')
  expect(await otherSaves('Lanterns')).toBe(200)
  await save.click()
  await expect(page.getByRole('alert')).toContainText(
    'Someone else has changed this category: name is now “Lanterns”',
  )
  await expect(name).toHaveValue('Lights')
  await page.getByRole('button', { name: 'Use theirs' }).click()
  await expect(name).toHaveValue('Lanterns')
  await expect(page.getByRole('alert')).toHaveCount(0)
  await name.fill('Lamps')
  expect(await otherSaves('Lanterns and lights')).toBe(200)
  await save.click()
  await page.getByRole('button', { name: 'Keep mine' }).click()
  await save.click()
  await expect(page.getByRole('heading', { name: 'Lamps', level: 1 })).toBeVisible()
  await expect(save).toBeDisabled()
})

test('images are uploaded, replaced and deleted', async ({ page, request, blog }) => {
  const drawing = (inside: string, size = '0 0 60 40') => ({
    name: 'Tea tray.SVG',
    mimeType: 'image/svg+xml',
    buffer: Buffer.from(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="${size}">${inside}</svg>`),
  })
  // A use links to its place.
  await page.goto('/content/images?image=sign.svg')
  await page.locator('.uses a', { hasText: 'templates/layouts/base.liquid' }).click()
  await expect(page.locator('.editor-head')).toContainText('templates/layouts/base.liquid')
  await page.goto('/content/images?show=unused')
  await expect(page.getByText('All images are used.')).toBeVisible()
  await page
    .locator('.image-drop input')
    .setInputFiles([
      drawing(
        '<script>document.title = "run"</script><rect width="60" height="40" fill="teal" onclick="x()"/>',
      ),
      { name: 'tray.png', mimeType: 'image/png', buffer: Buffer.from('not an image') },
    ])
  await expect(page.getByText('without <script> (line 1), onclick of <rect> (line 1)')).toBeVisible()
  await expect(page.getByText('The file is not an image.')).toBeVisible()
  await expect(page.getByRole('heading', { name: 'tea-tray.svg' })).toBeVisible()
  await expect(page.getByText('Nothing uses it')).toBeVisible()
  const served = await request.get(blog('/media/tea-tray.svg'))
  expect(await served.text()).not.toMatch(/script|onclick/)
  await page.locator('.image-detail input[type=file]').setInputFiles([drawing('<g/>', '0 0 90 30')])
  await expect(page.getByText('90 × 30 pixels')).toBeVisible()
  await page.getByRole('button', { name: 'Delete' }).click()
  await expect(page.getByText('All images are used.')).toBeVisible()
  expect((await request.get(blog('/media/tea-tray.svg'))).status()).toBe(404)
})

test('allowed HTML is tried, restricted and restored', async ({ page }) => {
  await page.goto('/content/html')
  const dropped = page.locator('.dropped')
  await expect(dropped.getByText('<script>', { exact: true })).toBeVisible()
  await page.getByLabel('Markdown and HTML').fill('<u>a</u> **b** <i onclick="x()">c</i>')
  const got = page.getByLabel('HTML that readers get')
  await expect(got).toHaveText('<p><u>a</u> <strong>b</strong> <i>c</i></p>')
  await expect(dropped.locator('code')).toHaveText(['onclick of <i>'])
  await page.getByRole('checkbox', { name: 'u', exact: true }).click()
  await expect(got).toHaveText('<p>a <strong>b</strong> <i>c</i></p>')
  await page.getByRole('button', { name: 'Save', exact: true }).click()
  await expect(page.getByText('with the saved list')).toBeVisible()
  await page.goto('/content/html')
  await expect(page.getByRole('checkbox', { name: 'u', exact: true })).not.toBeChecked()
  await page.getByRole('checkbox', { name: 'u', exact: true }).click()
  await page.getByRole('button', { name: 'Save', exact: true }).click()
  await expect(page.getByText('with the saved list')).toBeVisible()
  await page.reload()
  await expect(page.getByRole('checkbox', { name: 'u', exact: true })).toBeChecked()
})

for (const scheme of ['light', 'dark'] as const)
  test(`in ${scheme}: axe finds nothing, and every part can be reached on a phone`, async ({ page }) => {
    await page.emulateMedia({ colorScheme: scheme, reducedMotion: 'reduce' })
    for (const path of [
      'pages?page=about',
      'categories?open=woodwork',
      'authors?open=wen-adeyemi',
      'images?image=sign.svg',
      'html',
    ]) {
      await page.setViewportSize({ width: 1280, height: 800 })
      await page.goto(`/content/${path}`)
      await expect(page.locator('.kinds .active span')).toHaveText(/\d|allowed/)
      await untilLoaded(page)
      expect(await faultsForAxe(page), path).toEqual([])
      await page.setViewportSize({ width: 390, height: 844 })
      expect(await page.evaluate(() => document.documentElement.scrollWidth), path).toBeLessThanOrEqual(390)
      await page.locator('.content > section').last().scrollIntoViewIfNeeded()
      await expect(page.locator('.content > section').last()).toBeInViewport()
    }
  })
