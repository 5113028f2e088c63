// Queries: what is typed is tried at once, with parameters of a real address, and how it runs is measured.
import AxeBuilder from '@axe-core/playwright'
import { expect, test } from '@playwright/test'
import { KEY } from './playwright.config.ts'

const faults: string[] = []
test.beforeEach(async ({ page }) => {
  faults.length = 0
  page.on('pageerror', (error) => faults.push(error.message))
  await page.goto(`/sign-in?key=${KEY}`)
  await expect(page.getByRole('heading', { name: /^Response/ })).toBeVisible()
})
test.afterEach(() => expect(faults).toEqual([]))

test('a query is tried with the parameters of an address, as it is typed, and its steps are seen', async ({
  page,
}) => {
  await page.goto('/queries?open=queries/posts-in-category.yaml')
  await expect(page.getByText('give :category a value to run it', { exact: false })).toBeVisible()
  await page.getByRole('button', { name: 'From an address' }).click()
  await page.locator('.ant-dropdown-menu-item').first().click()
  await expect(page.getByLabel('Parameter category')).toHaveValue('bicycles')
  const rows = page.locator('.query-rows tbody tr')
  await expect(rows).toHaveCount(6)
  await expect(page.locator('.query-rows .outcome')).toContainText('6 rows of 7')
  await page.getByLabel('Page', { exact: true }).fill('2')
  await expect(rows).toHaveCount(1)
  await page.getByLabel('Page', { exact: true }).fill('9')
  await expect(page.getByText('Page 9 is past the end.')).toBeVisible()
  await page.getByLabel('Page', { exact: true }).fill('1')
  await expect(rows).toHaveCount(6)
  const plan = page.locator('.behind .plan')
  await expect(plan.getByText('Limit', { exact: true }).first()).toBeVisible()
  await expect(plan.getByText('stops when there are enough').first()).toBeVisible()
  // What is typed and not saved is tried already; a fault is said at its line.
  await page.locator('.cm-content').click()
  await page.keyboard.press('Control+Home')
  await page.keyboard.press('ArrowDown')
  await page.keyboard.press('End')
  await page.keyboard.press('Enter')
  await page.keyboard.type('empty: allow')
  await page.keyboard.press('Control+End')
  await page.keyboard.type('wehre: [published]')
  await expect(
    page.getByText('It runs as soon as it is whole again; what is wrong is marked above.'),
  ).toBeVisible()
  for (let times = 0; times < 'wehre: [published]'.length; times++) await page.keyboard.press('Backspace')
  await expect(rows).toHaveCount(6)
  await page.getByRole('tab', { name: 'SQL' }).click()
  await expect(page.locator('.statements')).toContainText('category.slug')
  await expect(page.locator('.statements')).toContainText("'bicycles'")
  await page.getByRole('tab', { name: 'TypeORM' }).click()
  await expect(page.locator('pre.code')).toContainText(".createQueryBuilder('post')")
})

test('a query is made, and refused under a name that is taken', async ({ page }) => {
  await page.goto('/queries')
  await page.getByLabel('Name of a new query').fill('all-posts')
  await page.getByRole('button', { name: 'Make it' }).click()
  await expect(page.getByText('queries/all-posts.yaml is there already')).toBeVisible()
})

for (const scheme of ['light', 'dark'] as const)
  test(`in ${scheme}: no fault of accessibility`, async ({ page }) => {
    await page.emulateMedia({ colorScheme: scheme, reducedMotion: 'reduce' })
    await page.goto('/queries?open=queries/all-posts.yaml')
    await expect(page.locator('.query-rows tbody tr')).toHaveCount(6)
    await expect(page.locator('.behind .plan li').first()).toBeVisible()
    const found = await new AxeBuilder({ page }).analyze()
    expect(
      found.violations.map(
        (one) =>
          `${one.id}: ${one.nodes
            .map((node) => node.html)
            .join(' ')
            .slice(0, 300)}`,
      ),
    ).toEqual([])
    await page.setViewportSize({ width: 390, height: 844 })
    expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(390)
  })
