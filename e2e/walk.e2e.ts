// The Walk area: walking an address, editing a document in place, and seeing the change.
import { expect, type Page } from '@playwright/test'
import { KEY, WCAG, faultsForAxe, pageIn, signIn, test } from './fixtures.ts'

test.beforeEach(async ({ page }) => {
  await signIn(page)
  await page.goto('/')
  await expect(page.getByRole('heading', { name: /^Response/ })).toBeVisible()
})

const typeInto = async (page: Page, line: string, text: string) => {
  await page.locator('.cm-line', { hasText: line }).first().click()
  await page.keyboard.press('End')
  await page.keyboard.type(text)
}

test('without a session, only the sign-in form is shown', async ({ browser }) => {
  const page = await (await browser.newContext()).newPage()
  await page.goto('/walk')
  await page.getByLabel('Access key').fill('wrong')
  await page.getByRole('button', { name: 'Sign in' }).click()
  await expect(page.getByRole('alert')).toContainText('The key is wrong.')
  await page.getByLabel('Access key').fill(KEY)
  await page.getByRole('button', { name: 'Sign in' }).click()
  await expect(page.getByRole('heading', { name: /^Queries/ })).toBeVisible()
})

test('the sign-in address signs in and opens the walk of page 2 of the journal', async ({ page }) => {
  await page.context().clearCookies()
  await page.goto(`/sign-in?key=${KEY}`)
  await expect(page.getByLabel('Address to walk')).toHaveValue('/posts?page=2')
  await expect(pageIn(page).getByText('Posts 7 to 12 of 41')).toBeVisible()
  await expect(page.getByText('2nd of 16 tried.')).toBeVisible()
  await expect(page.getByText('Published posts, newest first, 6 per page.')).toBeVisible()
})

test('walks a typed address and links of the page, and goes back and forward', async ({ page }) => {
  const address = page.getByLabel('Address to walk')
  await address.fill('/category/electrical')
  await address.press('Enter')
  await expect(page.getByText('5th of 16 tried.')).toBeVisible()
  await pageIn(page)
    .getByRole('link', { name: 'The toaster inquest: five causes of death, in order' })
    .click()
  await expect(address).toHaveValue('/posts/the-toaster-inquest')
  await page.goBack()
  await expect(address).toHaveValue('/category/electrical')
  await page.goForward()
  await expect(address).toHaveValue('/posts/the-toaster-inquest')
})

test('an edit of the card changes the page, is shown as changed lines, and can be undone', async ({
  page,
}) => {
  await page.getByRole('button', { name: 'Change what a card shows' }).click()
  await typeInto(page, 'post.excerpt', '<p>{{ post.wordCount | reading_minutes }} minutes of your life</p>')
  await page.keyboard.press('Control+s')
  await expect(page.getByText('templates/partials/card.liquid was saved.')).toBeVisible()
  await expect(pageIn(page).getByText('minutes of your life').first()).toBeVisible()
  await page.getByRole('button', { name: 'Changed lines' }).click()
  await expect(page.locator('.diff .added').first()).toContainText('minutes of your life')
  await page.getByRole('tab', { name: 'Page' }).click()
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect(pageIn(page).getByText('minutes of your life')).toHaveCount(0)
})

test('an invalid document is refused with the line of its problem, and readers keep the last valid version', async ({
  page,
}) => {
  await page.getByRole('button', { name: 'all-posts', exact: true }).click()
  await typeInto(page, 'order:', 'x')
  await page.keyboard.press('Control+s')
  await expect(page.getByText('The document was not saved, because it is not valid.')).toBeVisible()
  await expect(page.locator('.problems')).toContainText(/line \d/)
  await expect(pageIn(page).getByText('Posts 7 to 12 of 41')).toBeVisible()
  await page.getByRole('button', { name: 'Discard' }).click()
  await expect(page.locator('.problems')).toHaveCount(0)
})

test('a draft answers readers with 404, says why, and is shown to the author', async ({ page }) => {
  await page.getByRole('button', { name: 'The address of a draft' }).click()
  await expect(page.getByText('but is a draft: the post has no publication date.')).toBeVisible()
  await page.getByRole('button', { name: 'Walk as the author' }).click()
  await expect(pageIn(page).getByText('Not published yet')).toBeVisible()
})

test('a post edited from its row in the walk changes the walked page', async ({ page }) => {
  await page.getByRole('button', { name: 'SQL and rows' }).first().click()
  await page.getByRole('button', { name: 'Zip surgery without replacing the zip' }).click()
  await typeInto(page, 'title: Zip surgery', ', or a little less than you think')
  await page.keyboard.press('Control+s')
  await expect(pageIn(page).getByRole('heading', { name: /or a little less than you think/ })).toBeVisible()
  await expect(
    page.getByText(/^Dropped \d+ cop(y|ies): \d+ card.* \(post \d+: .*title.* changed\)\.$/),
  ).toBeVisible()
})

test('requests of readers appear without a reload, and a click walks one', async ({
  page,
  request,
  blog,
}) => {
  await request.get(blog('/post/first-open-day'))
  const row = page.getByTitle('Walk /post/first-open-day')
  await expect(row).toContainText('404')
  await row.click()
  await expect(page.getByLabel('Address to walk')).toHaveValue('/post/first-open-day')
})

test('a JSON request is walked as data, and can be walked as a page', async ({ page, request, blog }) => {
  await request.get(blog('/posts/moth'), { headers: { accept: 'application/json' } })
  await page.getByTitle('Walk /posts/moth').filter({ hasText: 'JSON' }).click()
  await expect(page.getByRole('tab', { name: 'Data' })).toHaveAttribute('aria-selected', 'true')
  await expect(page.getByRole('region', { name: 'Page' })).toContainText('"title": "Moth"')
  await expect(page.getByText('None: JSON has all data of the route')).toBeVisible()
  await page.getByLabel('Preferred response').click()
  await page.getByTitle('page (HTML)', { exact: true }).click()
  await expect(pageIn(page).getByRole('heading', { name: 'Moth', exact: true })).toBeVisible()
})

test('every area opens, and axe finds nothing', async ({ page }) => {
  for (const [area, text] of [
    ['walk', 'Response'],
    ['routes', 'tried from top to bottom'],
    ['queries', 'all-posts.yaml'],
    ['templates', 'Partials'],
    ['cache', 'Pages and fragments'],
  ] as const) {
    await page.goto(`/${area}`)
    await expect(page.getByText(text).first()).toBeVisible()
    expect(await faultsForAxe(page, WCAG), area).toEqual([])
  }
})
