// The Templates area in a browser: the page beside the editor, the line behind a part of it, values and completion.
import { expect, type Page } from '@playwright/test'
import { faultsForAxe, signIn, test, WCAG } from './fixtures.ts'

test.beforeEach(({ page }) => signIn(page))

const CARD = 'templates/partials/card.liquid'
const open = (page: Page, query: string) => page.goto(`/templates?${query}`)
const preview = (page: Page) => page.frameLocator('iframe[title^="Preview of"]')
const editor = (page: Page) => page.locator('.cm-content')
const head = (page: Page) => page.locator('.editor-head')

test('the page has the text as it is typed, and readers do not', async ({ page, request, blog }) => {
  await open(page, `open=${CARD}&path=/posts&line=9`)
  await expect(preview(page).locator('article.card h2').first()).toBeVisible()
  // The cursor is at the start of the line that the address names.
  await editor(page).focus()
  await page.keyboard.type('<p class="typed">just typed</p>')
  await expect(preview(page).locator('.typed').first()).toBeVisible()
  expect(await (await request.get(blog('/posts'))).text()).not.toContain('just typed')
  await page.getByRole('button', { name: 'Discard' }).click()
  await expect(preview(page).locator('.typed')).toHaveCount(0)
})

test('a click on the page selects the line that has printed it, in whichever template it is', async ({
  page,
}) => {
  await open(page, 'open=templates/pages/listing.liquid&path=/posts')
  await preview(page).locator('article.card h2 a').nth(2).click()
  await expect(head(page)).toContainText(CARD)
  await expect(page.locator('.cm-activeLine')).toContainText('post.title')
  await expect(page.getByText('3 of 6 on this page')).toBeVisible()
  const title = await preview(page).locator('article.card h2 a').nth(2).innerText()
  await expect(page.locator('table.values')).toContainText(title)
  await preview(page).locator('h1').click()
  await expect(head(page)).toContainText('templates/pages/listing.liquid')
  await expect(page.locator('.cm-activeLine')).toContainText('<h1')
  await preview(page).locator('.brand').click()
  await expect(head(page)).toContainText('templates/layouts/base.liquid')
  // Each is a step back.
  await page.goBack()
  await expect(head(page)).toContainText('templates/pages/listing.liquid')
})

test('the line of the cursor is outlined on the page', async ({ page }) => {
  await open(page, `open=${CARD}&path=/posts`)
  await expect(preview(page).locator('article.card h2').first()).toBeVisible()
  await page.locator('.cm-line', { hasText: '<h2>' }).click()
  const outline = (element: Element) => (element as HTMLElement).style.outlineStyle
  await expect.poll(() => preview(page).locator('article.card h2').first().evaluate(outline)).toBe('solid')
  await expect(preview(page).getByText('card:6')).toBeVisible()
  await page.locator('.cm-line', { hasText: 'post.excerpt' }).click()
  await expect.poll(() => preview(page).locator('article.card h2').first().evaluate(outline)).toBe('')
  await expect(preview(page).getByText('card:7')).toBeVisible()
})

test('fields are completed by type, and a misspelt one is marked while it is typed', async ({ page }) => {
  await open(page, `open=${CARD}&path=/posts&line=9`)
  await expect(page.locator('.cm-activeLine')).toContainText('</div>')
  // The cursor is at the start of the line that the address names.
  await editor(page).focus()
  await page.keyboard.type('{{ post.author.')
  const choices = page.locator('.cm-tooltip-autocomplete')
  await expect(choices).toContainText('name')
  await expect(choices).not.toContainText('publishedAt')
  await page.keyboard.type('na')
  await page.keyboard.press('Enter')
  await expect(editor(page)).toContainText('{{ post.author.name}}')
  await page.keyboard.press('Control+a')
  await page.keyboard.type('{{ post.titel }}')
  await expect(page.getByRole('tab', { name: 'Problems 1' })).toBeVisible()
  await page.getByRole('tab', { name: 'Problems 1' }).click()
  await expect(page.getByText('A post has no “titel”. Did you mean “title”?')).toBeVisible()
  await page.getByRole('button', { name: 'Discard' }).click()
})

test('F12 opens the partial under the cursor', async ({ page }) => {
  await open(page, 'open=templates/pages/listing.liquid')
  // The highlighted name: until the text is highlighted, its line is one element, with something else in its middle.
  await page.locator('.cm-line span', { hasText: /^'partials\/card'$/ }).click()
  await page.keyboard.press('F12')
  await expect(head(page)).toContainText(CARD)
})

test('the page is shown at four widths, in both schemes, and with styles as they are typed', async ({
  page,
}) => {
  await open(page, 'open=assets/blog.css&path=/posts')
  const background = () =>
    preview(page)
      .locator('body')
      .evaluate((body) => getComputedStyle(body).backgroundColor)
  await expect(preview(page).locator('h1')).toBeVisible()
  const light = await background()
  await page.locator('.ant-segmented').getByText('Dark', { exact: true }).click()
  await expect.poll(background).not.toBe(light)
  await page.getByText('390', { exact: true }).click()
  expect(
    await preview(page)
      .locator('html')
      .evaluate((element) => element.clientWidth),
  ).toBe(390)
  await editor(page).click()
  await page.keyboard.press('Control+End')
  await page.keyboard.type('\nbody { background: rgb(1, 2, 3) }')
  await expect.poll(background).toBe('rgb(1, 2, 3)')
  await page.getByRole('button', { name: 'Discard' }).click()
  await expect.poll(background).not.toBe('rgb(1, 2, 3)')
})

test('formatting indents the lines', async ({ page }) => {
  await open(page, `open=${CARD}`)
  await editor(page).click()
  await page.keyboard.press('Control+a')
  await page.keyboard.insertText('<ul>\n<li>{{ post.title }}</li>\n</ul>')
  await page.getByRole('button', { name: 'Format' }).click()
  await expect(page.locator('.cm-line').nth(1)).toHaveText('  <li>{{ post.title }}</li>')
  await page.getByRole('button', { name: 'Discard' }).click()
})

test('a partial is renamed and inlined from the menu, and every page stays the same', async ({
  page,
  request,
  blog,
}) => {
  const html = async () => (await (await request.get(blog('/posts'))).text()).replace(/\s+/g, ' ')
  const before = await html()
  const menu = async (item: string | RegExp) => {
    await page.getByRole('button', { name: 'Refactor' }).click()
    await page.getByRole('menuitem', { name: item }).click()
  }
  const dialog = page.getByRole('dialog')
  await page.goto('/templates?open=templates/partials/card.liquid&line=6')
  await expect(page.locator('.cm-content')).toContainText('<article')
  await menu('Rename or move this document…')
  await expect(dialog.getByLabel('New name')).toBeFocused()
  await page.keyboard.type('partials/pager')
  await expect(dialog.getByText('templates/partials/pager.liquid exists already.')).toBeVisible()
  await dialog.getByLabel('New name').fill('partials/teaser')
  await expect(dialog.getByText(/^\d+ documents change\. Readers see the same pages\.$/)).toBeVisible()
  await dialog.getByRole('button', { name: 'Apply' }).click()
  await expect(page).toHaveURL(/partials%2Fteaser|partials\/teaser/)
  await expect(page.getByText('The document is now templates/partials/teaser.liquid.')).toBeVisible()
  expect(await html()).toBe(before)

  await page.goto('/templates?open=templates/pages/listing.liquid')
  const tag = page.locator('.cm-line', { hasText: 'partials/teaser' })
  await tag.click()
  await menu('Inline this partial…')
  await expect(dialog.locator('.added').first()).toBeVisible()
  await dialog.getByRole('button', { name: 'Apply' }).click()
  await expect(page.locator('.cm-content')).toContainText('class="card')
  await expect(tag).toHaveCount(0)
  expect(await html()).toBe(before)
})

test('design tokens are edited with the page beside them, and their contrast is computed', async ({
  page,
  request,
  blog,
}) => {
  await page.goto('/templates?open=assets/blog.css&path=%2Fposts')
  await expect(preview(page).locator('article.card').first()).toBeVisible()
  const field = page.getByLabel('--muted, light', { exact: true })
  await field.click()
  await page.keyboard.press('Control+a')
  await page.keyboard.type('#b0b4bb')
  await expect(field).toHaveValue('#b0b4bb')
  const row = page.getByRole('row', { name: '--muted on --ground' })
  await expect(row).toContainText(/[12]\.\d+:1 too low/)
  const colour = () =>
    preview(page)
      .locator('p.meta')
      .first()
      .evaluate((one) => getComputedStyle(one).color)
  await expect.poll(colour).toBe('rgb(176, 180, 187)')
  await page.getByLabel('Colour of --muted, light').fill('#333333')
  await expect.poll(colour).toBe('rgb(51, 51, 51)')
  await expect(row).not.toContainText('too low')
  await field.fill('red; --x: 1')
  await expect(field).toHaveAttribute('title', /not a single value/)
  expect(await faultsForAxe(page, WCAG)).toEqual([])
  await page.keyboard.press('Tab')
  await expect(field).toHaveValue('#333333')
  await page.keyboard.press('Control+s')
  await expect(page.getByText('assets/blog.css was saved.')).toBeVisible()
  const [, address = ''] =
    /href="([^"]*blog[^"]*\.css[^"]*)"/.exec(await (await request.get(blog('/'))).text()) ?? []
  expect(await (await request.get(new URL(address, blog('/')).href)).text()).toContain('--muted: #333333')
})
