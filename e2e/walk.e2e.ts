// Walking an address, editing in place, seeing the change: the first minute of a newcomer.
import { expect, type Page } from '@playwright/test'
import { KEY, WCAG, faultsForAxe, signIn, test } from './fixtures.ts'

test.beforeEach(async ({ page }) => {
  await signIn(page)
  await page.goto('/')
  await expect(page.getByRole('heading', { name: /^Response/ })).toBeVisible()
})

const frame = (page: Page) => page.frameLocator('iframe')
const typeInto = async (page: Page, line: string, text: string) => {
  await page.locator('.cm-line', { hasText: line }).first().click()
  await page.keyboard.press('End')
  await page.keyboard.type(text)
}

test('without the key there is only the question for it', async ({ browser }) => {
  const page = await (await browser.newContext()).newPage()
  await page.goto('/walk')
  await page.getByLabel('Access key').fill('wrong')
  await page.getByRole('button', { name: 'Sign in' }).click()
  await expect(page.getByText('This is not the key')).toBeVisible()
  await page.getByLabel('Access key').fill(KEY)
  await page.getByRole('button', { name: 'Sign in' }).click()
  await expect(page.getByRole('heading', { name: /^Queries/ })).toBeVisible()
})

test('the address that the start prints signs in, and opens on page 2 of the journal, explained', async ({
  page,
}) => {
  await page.context().clearCookies()
  await page.goto(`/sign-in?key=${KEY}`)
  await expect(page.getByLabel('Address to walk')).toHaveValue('/posts?page=2')
  await expect(frame(page).getByText('Posts 7 to 12 of 41')).toBeVisible()
  await expect(page.getByText('2nd of 11 tried.')).toBeVisible()
  await expect(page.getByText('Published posts, newest first, 6 a page.')).toBeVisible()
})

test('a typed address is walked; back and forward work; links in the page are walked', async ({ page }) => {
  const address = page.getByLabel('Address to walk')
  await address.fill('/category/electrical')
  await address.press('Enter')
  await expect(page.getByText('5th of 11 tried.')).toBeVisible()
  await frame(page).getByRole('link', { name: 'The toaster inquest: five causes of death, in order' }).click()
  await expect(address).toHaveValue('/posts/the-toaster-inquest')
  await page.goBack()
  await expect(address).toHaveValue('/category/electrical')
  await page.goForward()
  await expect(address).toHaveValue('/posts/the-toaster-inquest')
})

test('one edit of the card changes the page at once, and can be undone', async ({ page }) => {
  await page.getByRole('button', { name: 'change what a card shows' }).click()
  await typeInto(page, 'post.excerpt', '<p>{{ post.wordCount | reading_minutes }} minutes of your life</p>')
  await page.keyboard.press('Control+s')
  await expect(page.getByText('Saved templates/partials/card.liquid.')).toBeVisible()
  await expect(frame(page).getByText('minutes of your life').first()).toBeVisible()
  await page.getByRole('button', { name: 'Changed lines' }).click()
  await expect(page.locator('.diff .added').first()).toContainText('minutes of your life')
  await page.getByRole('tab', { name: 'Page' }).click()
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect(frame(page).getByText('minutes of your life')).toHaveCount(0)
})

test('a faulty save is refused with its line, and the last good version keeps running', async ({ page }) => {
  await page.getByRole('button', { name: 'all-posts', exact: true }).click()
  await typeInto(page, 'order:', 'x')
  await page.keyboard.press('Control+s')
  await expect(page.getByText('Not saved: the last good version keeps running.')).toBeVisible()
  await expect(page.locator('.problems')).toContainText(/line \d/)
  await expect(frame(page).getByText('Posts 7 to 12 of 41')).toBeVisible()
  await page.getByRole('button', { name: 'Discard' }).click()
  await expect(page.locator('.problems')).toHaveCount(0)
})

test('a draft is 404 for a reader, with the reason, and shown to its author', async ({ page }) => {
  await page.getByRole('button', { name: 'a draft’s address' }).click()
  await expect(page.getByText(/but is a draft: the post has no publication date/)).toBeVisible()
  await page.getByRole('button', { name: 'Walk it as the author' }).click()
  await expect(frame(page).getByText('Not published yet')).toBeVisible()
})

test('a title edited from its row is on the walked page', async ({ page }) => {
  await page.getByRole('button', { name: 'SQL, rows' }).first().click()
  await page.getByRole('button', { name: 'Zip surgery without replacing the zip' }).click()
  await typeInto(page, 'title: Zip surgery', ', or a little less than you think')
  await page.keyboard.press('Control+s')
  await expect(frame(page).getByRole('heading', { name: /or a little less than you think/ })).toBeVisible()
  await expect(page.getByText(/kept cop(y|ies) had to go/)).toBeVisible()
})

test('what readers ask for appears live, and a click walks it', async ({ page, request, blog }) => {
  await request.get(blog('/post/first-open-day'))
  const row = page.getByTitle('Walk /post/first-open-day')
  await expect(row).toContainText('404')
  await row.click()
  await expect(page.getByLabel('Address to walk')).toHaveValue('/post/first-open-day')
})

test('what a program asked for is walked as data, with a click, and back as the page', async ({
  page,
  request,
  blog,
}) => {
  await request.get(blog('/posts/moth'), { headers: { accept: 'application/json' } })
  await page.getByTitle('Walk /posts/moth').filter({ hasText: 'as data' }).click()
  await expect(page.getByRole('tab', { name: 'Data' })).toHaveAttribute('aria-selected', 'true')
  await expect(page.getByRole('region', { name: 'The page' })).toContainText('"title": "Moth"')
  await expect(page.getByText('None: programs get all the data of the route')).toBeVisible()
  await page.getByLabel('What is asked for').click()
  await page.getByTitle('the page', { exact: true }).click()
  await expect(frame(page).getByRole('heading', { name: 'Moth', exact: true })).toBeVisible()
})

test('the other stops open, and no screen has an accessibility fault that axe finds', async ({ page }) => {
  for (const [area, text] of [
    ['walk', 'Response'],
    ['routes', 'tried from top to bottom'],
    ['queries', 'all-posts.yaml'],
    ['templates', 'card.liquid'],
    ['cache', 'Kept now'],
  ] as const) {
    await page.goto(`/${area}`)
    await expect(page.getByText(text).first()).toBeVisible()
    expect(await faultsForAxe(page, WCAG), area).toEqual([])
  }
})
