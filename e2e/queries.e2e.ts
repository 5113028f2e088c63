// Queries: what is typed is tried at once, with parameters of a real address, and how it runs is measured.
import { expect } from '@playwright/test'
import { faultsForAxe, signIn, test } from './fixtures.ts'

test.beforeEach(({ page }) => signIn(page))

test('a query is tried with the parameters of an address, as it is typed, and its steps are seen', async ({
  page,
}) => {
  await page.goto('/queries?open=queries/posts-in-category.yaml')
  // It is opened with what an address gives it.
  await expect(page.getByLabel('Parameter category')).toHaveValue('bicycles')
  await page.getByLabel('Parameter category').fill('')
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
  await page.getByText('YAML', { exact: true }).click()
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
  await expect(page.locator('.statements')).toContainText('WITH RECURSIVE')
  await expect(page.locator('.statements')).toContainText("'bicycles'")
  await page.getByRole('tab', { name: 'TypeORM' }).click()
  await expect(page.locator('pre.code')).toContainText(".createQueryBuilder('post')")
})

test('its parts and its text are the same: what is changed in one shows in the other, and comments stay', async ({
  page,
}) => {
  await page.goto('/queries?open=queries/posts-by-date.yaml')
  const rows = page.locator('.query-rows tbody tr')
  await expect(rows).toHaveCount(15)
  await page.getByLabel('Rows on a page').fill('4')
  await page.getByLabel('Rows on a page').press('Tab')
  await expect(rows).toHaveCount(4)
  await page.getByRole('button', { name: 'After' }).click()
  await expect(page.getByRole('button', { name: 'Before' })).toBeEnabled()
  await page.getByRole('button', { name: 'publishedAt: largest first' }).click()
  await page.getByText('YAML', { exact: true }).click()
  const text = page.locator('.cm-content')
  await expect(text).toContainText('order: [publishedAt]')
  await expect(text).toContainText('size: 4, by: cursor')
  await expect(text).toContainText('# A long, plain list')
  // Fields are offered by their type.
  await text.click()
  await page.keyboard.press('Control+End')
  await page.keyboard.type('with: [comm')
  await expect(page.locator('.cm-tooltip-autocomplete')).toContainText('commentCount')
  await page.keyboard.press('Escape')
  await page.getByRole('button', { name: 'Discard' }).click()
  await expect(rows).toHaveCount(15)
})

test('conditions are put into groups, turned into their opposite, and taken out again', async ({ page }) => {
  await page.goto('/queries?open=queries/posts-by-date.yaml')
  const rows = page.locator('.query-rows tbody tr')
  await expect(rows).toHaveCount(15)
  const sentence = page.locator('.sentence')
  await page.getByRole('button', { name: 'Add a condition', exact: true }).click()
  await page.getByRole('menuitem', { name: 'any of several' }).click()
  await page.getByLabel('What title is compared with').fill('Moth')
  await expect(rows).toHaveCount(1)
  await page.getByRole('button', { name: 'Add a condition to 2' }).click()
  await page.getByRole('menuitem', { name: 'published' }).click()
  await expect(rows).toHaveCount(15)
  await page.getByRole('button', { name: 'Turn condition 2.2 into its opposite' }).click()
  await expect(sentence).toContainText('(title is Moth or not (')
  await expect(rows).toHaveCount(1)
  await page.getByLabel('How many of 2 must hold').click()
  await page.getByTitle('all of').click()
  await expect(page.getByText('no rows', { exact: true })).toBeVisible()
  await page.getByText('YAML', { exact: true }).click()
  await expect(page.locator('.cm-content')).toContainText(
    '- { all: [{ field: title, is: equal, to: Moth }, { not: published }] }',
  )
  await expect(page.locator('.cm-content')).toContainText('# A long, plain list')
  await page.getByText('Parts', { exact: true }).click()
  await page.getByRole('button', { name: 'Take condition 2.2 out' }).click()
  await page.getByRole('button', { name: 'Take condition 2.1 out' }).click()
  // A group that nothing is left in goes, too.
  await expect(page.getByRole('group', { name: 'Condition 2' })).toHaveCount(0)
  await expect(rows).toHaveCount(15)
  await page.getByRole('button', { name: 'Discard' }).click()
})

test('a query is measured as the blog grows: progress, chart, figures, an index that is accepted and made', async ({
  page,
}) => {
  test.setTimeout(180_000)
  await page.goto('/queries?open=queries/posts-of-month.yaml')
  await page.getByRole('tab', { name: 'As it grows' }).click()
  await expect(page.getByText('Not measured yet.', { exact: false })).toBeVisible()
  await page.getByRole('button', { name: 'Measure' }).click()
  await expect(page.getByLabel('How far it is')).toBeVisible()
  await expect(page.getByText(/makes [\d,]+ posts|runs “posts-of-month”/)).toBeVisible()
  const figures = page.locator('.growth table.figures')
  await expect(figures.getByText('100,000')).toBeVisible({ timeout: 150_000 })
  await expect(page.locator('.growth .recharts-line').first()).toBeVisible()
  await expect(page.getByLabel('How far it is')).toHaveCount(0)
  // Another one, of a thousand: the newest is shown, and the one before it can be chosen.
  const started = page.evaluate(async () => {
    const body = JSON.stringify({ queries: ['posts-of-month'], sizes: [1_000] })
    const headers = { 'content-type': 'application/json' }
    return (await fetch('/api/growth', { method: 'POST', headers, body })).status
  })
  expect(await started).toBe(200)
  await page.reload()
  await page.getByRole('tab', { name: 'As it grows' }).click()
  await expect(page.getByLabel('measured')).toBeVisible({ timeout: 60_000 })
  await expect(figures.getByText('100,000')).toHaveCount(0)
  await page.getByLabel('measured').click()
  await page.locator('.ant-select-item-option').last().click()
  await expect(figures.getByText('100,000')).toBeVisible()
  await page.getByRole('button', { name: 'Add it to indexes.yaml' }).click()
  await expect(page.locator('.growth .advice')).toContainText('in indexes.yaml')
  await page.getByRole('button', { name: 'Indexes of this blog' }).click()
  await expect(page.locator('table.figures').first()).toContainText('ready', { timeout: 60_000 })
})

test('what it is tried with stands in the address: a reload and “back” show the same', async ({ page }) => {
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
  // From a walk, with the values that the page had.
  await page.goto('/walk?path=/category/bicycles')
  await page.locator('.query', { hasText: 'posts-in-category' }).getByText('SQL, rows').click()
  await page.getByRole('link', { name: 'Try it with other values' }).click()
  await expect(page.getByLabel('Parameter category')).toHaveValue('bicycles')
  await page.goto('/queries?open=queries/never-made.yaml')
  await expect(page.getByText('There is no query “never-made”')).toBeVisible()
})

test('what is typed stays while others are looked at, and never goes over what somebody else saved', async ({
  page,
  api,
}) => {
  const path = 'queries/all-posts.yaml'
  await page.goto(`/queries?open=${path}`)
  await page.getByLabel('Rows on a page').fill('7')
  const unsaved = page.getByText('not saved', { exact: true })
  await expect(unsaved).toBeVisible()
  await page.getByRole('button', { name: /^latest-posts/ }).click()
  await expect(page.locator('.sentence')).toContainText('The first 5 published posts')
  await expect(unsaved).toHaveCount(0)
  await page.getByRole('button', { name: 'all-posts not saved' }).click()
  await expect(page.getByLabel('Rows on a page')).toHaveValue('7')

  const { text, version } = (await (await api.get(`/api/document?path=${path}`)).json()) as {
    text: string
    version: number
  }
  const theirs = text.replace('size: 6', 'size: 8')
  expect((await api.put('/api/document', { data: { path, text: theirs, version } })).status()).toBe(200)
  await page.keyboard.press('Control+s')
  await expect(page.getByText('Another text was saved meanwhile.')).toBeVisible()
  await page.reload()
  await page.getByRole('button', { name: 'What differs' }).click()
  await expect(page.locator('.document-diff .removed')).toContainText('size: 8')
  await expect(page.locator('.document-diff .added')).toContainText('size: 7')
  await page.getByRole('button', { name: 'Save mine' }).click()
  await expect(unsaved).toHaveCount(0)
  await expect(page.getByText('Another text was saved meanwhile.')).toHaveCount(0)
  await page.reload()
  await expect(page.getByLabel('Rows on a page')).toHaveValue('7')
})

test('a query is made, and refused under a name that is taken', async ({ page }) => {
  await page.goto('/queries')
  await page.getByLabel('name of a new query').fill('all-posts')
  await page.getByRole('button', { name: 'Make it' }).click()
  await expect(page.getByText('queries/all-posts.yaml is there already')).toBeVisible()
  await page.getByLabel('name of a new query').fill('Newest, three!')
  await expect(page.getByText('becomes queries/newest-three.yaml')).toBeVisible()
  await page.getByRole('button', { name: 'Make it' }).click()
  await expect(page).toHaveURL(/queries%2Fnewest-three\.yaml/)
  await expect(page.locator('.sentence')).toContainText('The first 5 published posts, newest first.')
})

for (const scheme of ['light', 'dark'] as const)
  test(`in ${scheme}: no fault of accessibility`, async ({ page }) => {
    await page.emulateMedia({ colorScheme: scheme, reducedMotion: 'reduce' })
    await page.goto('/queries?open=queries/all-posts.yaml')
    await expect(page.locator('.query-rows tbody tr')).toHaveCount(6)
    await expect(page.locator('.behind .plan li').first()).toBeVisible()
    expect(await faultsForAxe(page)).toEqual([])
    await page.setViewportSize({ width: 390, height: 844 })
    expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(390)
  })
