// The Routes and Checks areas: ordering, testing, adding and editing routes, changing a slug, fixing a finding.
import { expect, type Page } from '@playwright/test'
import { WCAG, faultsForAxe, signIn, test } from './fixtures.ts'

test.beforeEach(async ({ page }) => {
  await signIn(page)
  await page.goto('/routes')
  await expect(page.getByText(/16 routes, [\d,]+ addresses/)).toBeVisible()
})

const plates = (page: Page) => page.locator('.route-row .plate').allTextContents()

test('routes are reordered by keyboard and by dragging, and both can be undone', async ({ page }) => {
  const before = await plates(page)
  await page.getByRole('button', { name: 'Move route category,' }).focus()
  await page.keyboard.press('Alt+ArrowUp')
  await expect
    .poll(() => plates(page))
    .toEqual([...before.slice(0, 3), before[4], before[3], ...before.slice(5)])
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect.poll(() => plates(page)).toEqual(before)
  const [from, to] = [
    page.getByRole('button', { name: 'Move route category,' }),
    page.getByRole('button', { name: 'Move route posts' }),
  ]
  const [a, b] = [await from.boundingBox(), await to.boundingBox()]
  if (!a || !b) throw new Error('The rows are not shown.')
  await page.mouse.move(a.x + a.width / 2, a.y + a.height / 2)
  await page.mouse.down()
  await page.mouse.move(b.x + b.width / 2, b.y + b.height / 2, { steps: 12 })
  await page.mouse.up()
  await expect.poll(async () => (await plates(page)).indexOf('/category/:category')).toBeLessThan(3)
  await page.getByRole('button', { name: 'Undo' }).last().click()
  await expect.poll(() => plates(page)).toEqual(before)
})

test('typed addresses are tested, and an address is built', async ({ page }) => {
  await page
    .getByLabel('Addresses to test, one per line')
    .fill('/posts/zip-surgery\n/post/zip-surgery\n/Posts')
  const trials = page.locator('.trials li')
  await expect(trials).toHaveCount(3)
  await expect(trials.nth(0)).toContainText('slug = zip-surgery')
  await expect(trials.nth(1)).toContainText('Most similar: /posts/zip-surgery')
  await expect(trials.nth(2)).toContainText('Canonical form: lower case. Target: /posts')
  await page.getByText('Build an address').click()
  await page.getByLabel('slug slug').fill('Not A Slug')
  await expect(page.getByText('“Not A Slug” is not lower-case letters')).toBeVisible()
  await page.getByLabel('slug slug').fill('a-slug')
  await expect(page.getByText('{{ "post" | url: slug: … }}')).toBeVisible()
  await expect(page.locator('.build .plate')).toHaveText('/posts/a-slug')
})

test('a new route is previewed, created with its query, and deleted', async ({ page, request, blog }) => {
  await page.getByRole('button', { name: 'Add route' }).click()
  await page.getByRole('radio', { name: /Month archive/ }).click()
  await expect(page.getByText('queries/archive-2.yaml')).toBeVisible()
  await expect(page.locator('.document-diff .added', { hasText: 'publishedMonth' })).toBeVisible()
  await page.getByRole('button', { name: 'Create' }).click()
  await expect(page.locator('.route-row .plate', { hasText: '/archive-2/:year/:month' })).toBeVisible()
  const address = page.locator('.addresses a').first()
  const path = (await address.textContent()) ?? ''
  expect(path).toMatch(/^\/archive-2\/\d{4}\/\d{1,2}$/)
  expect((await request.get(blog(path))).status()).toBe(200)
  await page.getByRole('button', { name: 'Delete' }).first().click()
  await page.getByRole('tooltip').getByRole('button', { name: 'Delete' }).click()
  await expect(page.locator('.route-row')).toHaveCount(16)
  // No route uses its query any more, so it can be deleted.
  await page.goto('/queries?open=queries/archive-2.yaml')
  await page.getByRole('button', { name: 'Delete' }).click()
  await expect(page.getByText('queries/archive-2.yaml was deleted.')).toBeVisible()
})

test('undoing a new route also deletes what was created with it', async ({ page, api }) => {
  await page.getByRole('button', { name: 'Add route' }).click()
  await page.getByRole('button', { name: 'Create' }).click()
  await expect(page.locator('.route-row')).toHaveCount(16)
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect(page.getByText('The change was undone.')).toBeVisible()
  await expect(page.locator('.route-row')).toHaveCount(16)
  const queries = (await (await api.get('/api/queries')).json()) as { name: string; uses: unknown[] }[]
  expect(queries.filter((one) => one.uses.length === 0)).toEqual([])
})

test('the route form edits routes.yaml', async ({ page }) => {
  await page.getByRole('button', { name: 'Route category:' }).click()
  await page.getByText('Edit', { exact: true }).click()
  await page.getByLabel('Path').fill('/topics/:category')
  await page.getByRole('button', { name: 'Save' }).click()
  await expect(page.locator('.route-row .plate', { hasText: '/topics/:category' })).toBeVisible()
  await page.getByText('YAML', { exact: true }).click()
  await expect(page.locator('.cm-line', { hasText: 'path: /topics/:category' })).toBeVisible()
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect(page.locator('.cm-line', { hasText: /^ *path: \/category\/:category$/ })).toBeVisible()
})

test('a typed slug is checked, and the old address redirects after the change', async ({
  page,
  request,
  blog,
}) => {
  await page.getByRole('button', { name: 'Route category:' }).click()
  await page
    .locator('.addresses li', { hasText: '/category/woodwork' })
    .getByRole('button', { name: 'Change slug' })
    .click()
  await page.getByLabel('New slug').fill('textiles')
  await expect(page.getByText('The category “Textiles” has this slug.')).toBeVisible()
  await page.getByRole('button', { name: 'Use textiles-2' }).click()
  await page.getByLabel('New slug').fill('wood')
  await expect(page.getByText('/category/wood is free.')).toBeVisible()
  await page.locator('.change-slug').getByRole('button', { name: 'Save' }).click()
  await expect(page.locator('.addresses a', { hasText: /^\/category\/wood$/ })).toBeVisible()
  expect((await request.get(blog('/category/woodwork'), { maxRedirects: 0 })).status()).toBe(301)
  expect(new URL((await request.get(blog('/category/woodwork'))).url()).pathname).toBe('/category/wood')
})

test('a finding appears after the save, with its witness, and is fixed, dismissed and reopened', async ({
  page,
  request,
  blog,
}) => {
  // All checks run after each step, and once for each fix that is offered.
  const checked = expect.configure({ timeout: 180_000 })
  test.setTimeout(900_000)
  await page.getByText('YAML', { exact: true }).click()
  await page.locator('.cm-content').click()
  await page.keyboard.press('Control+End')
  await page.keyboard.type(
    '\n- name: shelf\npath: /posts/shelf\ndata: { latest: latest-posts }\ntemplate: pages/not-found\n',
  )
  await page.keyboard.press('Control+s')
  await page.getByText('List', { exact: true }).click()
  await checked(page.getByText('unreachable', { exact: true })).toBeVisible()
  await checked(page.locator('.count.some')).toHaveText('1')
  await page.getByRole('link', { name: 'Checks' }).click()
  await checked(page.getByRole('heading', { name: 'Route “shelf” is unreachable' })).toBeVisible()
  await checked(page.locator('.finding .plate')).toHaveText('/posts/shelf')
  await checked(page.locator('.document-diff .added').first()).toBeVisible()
  expect(await faultsForAxe(page, WCAG)).toEqual([])
  await page.getByRole('button', { name: 'Apply' }).click()
  // The pointer keeps the notice, however long the checks take.
  await page.getByRole('button', { name: 'Undo' }).hover()
  await checked(page.getByText('No findings. The checks run after each save')).toBeVisible()
  expect((await request.get(blog('/posts/shelf'))).status()).toBe(200)
  await page.getByRole('button', { name: 'Undo' }).click()
  await checked(page.getByRole('heading', { name: 'Route “shelf” is unreachable' })).toBeVisible()
  await page.getByRole('button', { name: 'Dismiss…' }).click()
  await page.getByLabel('Reason').fill('kept for the tests')
  await page.getByRole('button', { name: 'Dismiss', exact: true }).click()
  await checked(page.getByRole('region', { name: 'Finding', exact: true })).toContainText(
    '“kept for the tests”',
  )
  await page.getByRole('button', { name: 'Reopen' }).click()
  await page.getByRole('radio', { name: /^Delete/ }).click({ timeout: 180_000 })
  await page.getByRole('button', { name: 'Apply' }).click()
  await checked(page.getByText('No findings. The checks run after each save')).toBeVisible()
})

test('an address that was not found is redirected to the most similar one', async ({
  page,
  request,
  blog,
}) => {
  await request.get(blog('/post/zip-surgery'))
  await page.getByText('Not found (404s)').click()
  const row = page.locator('.trials li', { hasText: '/post/zip-surgery' })
  await expect(row).toContainText('Most similar: /posts/zip-surgery')
  await row.getByRole('button', { name: 'Redirect to it' }).click()
  await expect(row).toHaveCount(0)
  expect(new URL((await request.get(blog('/post/zip-surgery'))).url()).pathname).toBe('/posts/zip-surgery')
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect(page.locator('.route-row')).toHaveCount(16)
})
