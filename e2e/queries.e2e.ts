// The Queries area: the edited query runs at once with the parameters of a real address, and its growth is measured.
import { expect } from '@playwright/test'
import { faultsForAxe, signIn, test } from './fixtures.ts'

test.beforeEach(({ page }) => signIn(page))

test('the edited query runs with the parameters of an address and shows its plan', async ({ page }) => {
  await page.goto('/queries?open=queries/posts-in-category.yaml')
  // It opens with the parameters of an address.
  await expect(page.getByLabel('Parameter category')).toHaveValue('bicycles')
  await page.getByLabel('Parameter category').fill('')
  await expect(page.getByText('Enter :category to run the query.')).toBeVisible()
  await page.getByRole('button', { name: 'From an address' }).click()
  await page.locator('.ant-dropdown-menu-item').first().click()
  await expect(page.getByLabel('Parameter category')).toHaveValue('bicycles')
  const rows = page.locator('.query-rows tbody tr')
  await expect(rows).toHaveCount(6)
  await expect(page.locator('.query-rows .outcome')).toContainText('6 rows of 7')
  await page.getByLabel('Page', { exact: true }).fill('2')
  await expect(rows).toHaveCount(1)
  await page.getByLabel('Page', { exact: true }).fill('9')
  await expect(page.getByText('Page 9 is beyond the last.')).toBeVisible()
  await page.getByLabel('Page', { exact: true }).fill('1')
  await expect(rows).toHaveCount(6)
  const plan = page.locator('.details .plan')
  await expect(plan.getByText('Limit', { exact: true }).first()).toBeVisible()
  await expect(plan.getByText('stops when enough rows are found').first()).toBeVisible()
  // Unsaved text runs as well. A problem names its line.
  await page.getByText('YAML', { exact: true }).click()
  await page.locator('.cm-content').click()
  await page.keyboard.press('Control+Home')
  await page.keyboard.press('ArrowDown')
  await page.keyboard.press('End')
  await page.keyboard.press('Enter')
  await page.keyboard.type('empty: allow')
  await page.keyboard.press('Control+End')
  await page.keyboard.type('wehre: [published]')
  await expect(page.getByText('The query runs once the problems above are fixed.')).toBeVisible()
  for (let times = 0; times < 'wehre: [published]'.length; times++) await page.keyboard.press('Backspace')
  await expect(rows).toHaveCount(6)
  await page.getByRole('tab', { name: 'SQL' }).click()
  await expect(page.locator('.statements')).toContainText('WITH RECURSIVE')
  await expect(page.locator('.statements')).toContainText("'bicycles'")
  await page.getByRole('tab', { name: 'TypeORM' }).click()
  await expect(page.locator('pre.code')).toContainText(".createQueryBuilder('post')")
})

test('parts and YAML edit the same text, and comments stay', async ({ page }) => {
  await page.goto('/queries?open=queries/posts-by-date.yaml')
  const rows = page.locator('.query-rows tbody tr')
  await expect(rows).toHaveCount(15)
  await page.getByLabel('Rows per page').fill('4')
  await page.getByLabel('Rows per page').press('Tab')
  await expect(rows).toHaveCount(4)
  await page.getByRole('button', { name: 'Next' }).click()
  await expect(page.getByRole('button', { name: 'Previous' })).toBeEnabled()
  await page.getByRole('button', { name: 'publishedAt: descending' }).click()
  await page.getByText('YAML', { exact: true }).click()
  const text = page.locator('.cm-content')
  await expect(text).toContainText('order: [publishedAt]')
  await expect(text).toContainText('size: 4, by: cursor')
  await expect(text).toContainText('# A long, plain list')
  // Completion offers fields by type.
  await text.click()
  await page.keyboard.press('Control+End')
  await page.keyboard.type('with: [comm')
  await expect(page.locator('.cm-tooltip-autocomplete')).toContainText('commentCount')
  await page.keyboard.press('Escape')
  await page.getByRole('button', { name: 'Discard' }).click()
  await expect(rows).toHaveCount(15)
})

test('conditions are grouped, negated and removed', async ({ page }) => {
  await page.goto('/queries?open=queries/posts-by-date.yaml')
  const rows = page.locator('.query-rows tbody tr')
  await expect(rows).toHaveCount(15)
  const sentence = page.locator('.sentence')
  await page.getByRole('button', { name: 'Add condition', exact: true }).click()
  await page.getByRole('menuitem', { name: 'Any of several…' }).click()
  await page.getByLabel('Value for title').fill('Moth')
  await expect(rows).toHaveCount(1)
  await page.getByRole('button', { name: 'Add a condition to 2' }).click()
  await page.getByRole('menuitem', { name: 'published' }).click()
  await expect(rows).toHaveCount(15)
  await page.getByRole('button', { name: 'Put “not” before condition 2.2' }).click()
  await expect(sentence).toContainText('(title is Moth or not (')
  await expect(rows).toHaveCount(1)
  await page.getByLabel('Group 2').click()
  await page.getByTitle('all of').click()
  await expect(page.getByText('no rows', { exact: true })).toBeVisible()
  await page.getByText('YAML', { exact: true }).click()
  await expect(page.locator('.cm-content')).toContainText(
    '- { all: [{ field: title, is: equal, to: Moth }, { not: published }] }',
  )
  await expect(page.locator('.cm-content')).toContainText('# A long, plain list')
  await page.getByText('Parts', { exact: true }).click()
  await page.getByRole('button', { name: 'Remove condition 2.2' }).click()
  await page.getByRole('button', { name: 'Remove condition 2.1' }).click()
  // An empty group is removed.
  await expect(page.getByRole('group', { name: 'Condition 2' })).toHaveCount(0)
  await expect(rows).toHaveCount(15)
  await page.getByRole('button', { name: 'Discard' }).click()
})

test('growth is measured with progress, and an index that helps is added and built', async ({
  page,
  api,
}) => {
  test.setTimeout(180_000)
  await page.goto('/queries?open=queries/posts-of-month.yaml')
  await page.getByRole('tab', { name: 'Growth' }).click()
  await expect(page.getByText('Not measured yet.', { exact: false })).toBeVisible()
  await page.getByRole('button', { name: 'Measure' }).click()
  await expect(page.getByLabel('Progress')).toBeVisible()
  await expect(
    page.getByText(/Generating [\d,]+ posts|Running “posts-of-month” with [\d,]+ posts/),
  ).toBeVisible()
  const figures = page.locator('.growth table.figures')
  await expect(figures.getByText('100,000')).toBeVisible({ timeout: 150_000 })
  await expect(page.locator('.growth .recharts-line').first()).toBeVisible()
  await expect(page.getByLabel('Progress')).toHaveCount(0)
  // A second measurement: the latest is shown, and the earlier one can be chosen.
  const started = await api.post('/api/growth', { data: { queries: ['posts-of-month'], sizes: [1_000] } })
  expect(started.status()).toBe(200)
  await page.reload()
  await page.getByRole('tab', { name: 'Growth' }).click()
  await expect(page.getByLabel('Measured')).toBeVisible({ timeout: 60_000 })
  await expect(figures.getByText('100,000')).toHaveCount(0)
  await page.getByLabel('Measured').click()
  await page.locator('.ant-select-item-option').last().click()
  await expect(figures.getByText('100,000')).toBeVisible()
  await page.getByRole('button', { name: 'Add it to indexes.yaml' }).click()
  await expect(page.locator('.growth .advice')).toContainText('in indexes.yaml')
  await page.getByRole('button', { name: 'Indexes of this blog' }).click()
  await expect(page.locator('table.figures').first()).toContainText('ready', { timeout: 60_000 })
})

test('parameters and page are part of the address, so reload and Back show the same', async ({ page }) => {
  await page.goto('/queries?open=queries/search-posts.yaml')
  await page.getByLabel('Parameter q').fill('zip')
  await page.getByRole('tab', { name: 'SQL' }).click()
  await expect(page).toHaveURL(/with\.q=zip&view=sql$/)
  await page.getByRole('button', { name: /^all-posts/ }).click()
  await page.getByLabel('Page', { exact: true }).fill('2')
  await expect(page).toHaveURL(/all-posts\.yaml&page=2$/)
  await page.goBack()
  const isAsBefore = async () => {
    await expect(page.getByLabel('Parameter q')).toHaveValue('zip')
    await expect(page.locator('.statements')).toContainText("'zip'")
  }
  await isAsBefore()
  await page.reload()
  await isAsBefore()
  // From a walk, with the values of the page.
  await page.goto('/walk?path=/category/bicycles')
  await page.locator('.query', { hasText: 'posts-in-category' }).getByText('SQL and rows').click()
  await page.getByRole('link', { name: 'Run with other values' }).click()
  await expect(page.getByLabel('Parameter category')).toHaveValue('bicycles')
  await page.goto('/queries?open=queries/never-made.yaml')
  await expect(page.getByText('There is no query “never-made”')).toBeVisible()
})

test('unsaved text survives opening another query and never overwrites a newer version', async ({
  page,
  api,
}) => {
  const path = 'queries/all-posts.yaml'
  await page.goto(`/queries?open=${path}`)
  await page.getByLabel('Rows per page').fill('7')
  const unsaved = page.getByText('not saved', { exact: true })
  await expect(unsaved).toBeVisible()
  await page.getByRole('button', { name: /^latest-posts/ }).click()
  await expect(page.locator('.sentence')).toContainText('The first 5 published posts')
  await expect(unsaved).toHaveCount(0)
  await page.getByRole('button', { name: 'all-posts not saved' }).click()
  await expect(page.getByLabel('Rows per page')).toHaveValue('7')

  const { text, version } = (await (await api.get(`/api/document?path=${path}`)).json()) as {
    text: string
    version: number
  }
  const theirs = text.replace('size: 6', 'size: 8')
  expect((await api.put('/api/document', { data: { path, text: theirs, version } })).status()).toBe(200)
  await page.keyboard.press('Control+s')
  await expect(page.getByText('Someone else has saved this document since you opened it.')).toBeVisible()
  await page.reload()
  await page.getByRole('button', { name: 'Compare' }).click()
  await expect(page.locator('.document-diff .removed')).toContainText('size: 8')
  await expect(page.locator('.document-diff .added')).toContainText('size: 7')
  await page.getByRole('button', { name: 'Overwrite with mine' }).click()
  await expect(unsaved).toHaveCount(0)
  await expect(page.getByText('Someone else has saved this document since you opened it.')).toHaveCount(0)
  await page.reload()
  await expect(page.getByLabel('Rows per page')).toHaveValue('7')
})

test('a query is created, and a name that exists is refused', async ({ page }) => {
  await page.goto('/queries')
  await page.getByLabel('Name of a new query').fill('all-posts')
  await page.getByRole('button', { name: 'Create' }).click()
  await expect(page.getByText('queries/all-posts.yaml already exists.')).toBeVisible()
  await page.getByLabel('Name of a new query').fill('Newest, three!')
  await expect(page.getByText('Creates queries/newest-three.yaml')).toBeVisible()
  await page.getByRole('button', { name: 'Create' }).click()
  await expect(page).toHaveURL(/queries%2Fnewest-three\.yaml/)
  await expect(page.locator('.sentence')).toContainText('The first 5 published posts, newest first.')
})

for (const scheme of ['light', 'dark'] as const)
  test(`in ${scheme}: axe finds nothing`, async ({ page }) => {
    await page.emulateMedia({ colorScheme: scheme, reducedMotion: 'reduce' })
    await page.goto('/queries?open=queries/all-posts.yaml')
    await expect(page.locator('.query-rows tbody tr')).toHaveCount(6)
    await expect(page.locator('.details .plan li').first()).toBeVisible()
    expect(await faultsForAxe(page)).toEqual([])
    await page.setViewportSize({ width: 390, height: 844 })
    expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(390)
  })
