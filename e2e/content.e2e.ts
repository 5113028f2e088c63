// Writing: a post is written, scheduled, published, renamed, deleted and put back; the blog is looked at each time.
import { expect, type Page } from '@playwright/test'
import { WCAG, faultsForAxe, signIn, test } from './fixtures.ts'

test.beforeEach(async ({ page }) => {
  await signIn(page)
  await page.goto('/content')
  await expect(page.getByRole('heading', { name: 'Open a post, or write one' })).toBeVisible()
})

const title = (page: Page) => page.getByLabel('Title', { exact: true })
const save = (page: Page) => page.getByRole('button', { name: 'Save', exact: true })
const row = (page: Page, name: string) => page.locator('.post-list li', { hasText: name })

test('a post is written, published, renamed, deleted and put back', async ({ page, request, blog }) => {
  const status = async (path: string) => (await request.get(blog(path), { maxRedirects: 0 })).status()
  await page.getByRole('button', { name: 'Write' }).click()
  await title(page).fill('A kettle called Harold')
  await page.locator('.cm-content').click()
  await page.keyboard.type('It whistles.')
  await page.keyboard.press('Control+a')
  await page.keyboard.press('Control+b')
  // The page follows the typing, through the blog's own template.
  const preview = page.frameLocator('.post-page iframe')
  await expect(preview.locator('.text strong')).toHaveText('It whistles.')
  await expect(preview.getByText('Not published yet')).toBeVisible()
  // A draft saves itself, and the cursor stays where it was.
  await expect(row(page, 'A kettle called Harold').getByText('draft')).toBeVisible()
  await expect(page).toHaveURL(/post=a-kettle-called-harold/)
  await page.keyboard.press('Control+End')
  await page.keyboard.type(' Often.')
  await expect(preview.locator('.text')).toHaveText('It whistles. Often.')
  expect(await status('/posts/a-kettle-called-harold')).toBe(404)
  await expect(page.getByRole('heading', { name: 'Where it would appear, published now' })).toBeVisible()
  await expect(page.getByText('1st on the first page').first()).toBeVisible()

  // Scheduled for half past one on the night on which the clocks go forward: there is no such time.
  const year = new Date().getUTCFullYear() + 1
  const lastSunday = new Date(Date.UTC(year, 2, 31))
  lastSunday.setUTCDate(31 - lastSunday.getUTCDay())
  await page.getByText('On a day', { exact: true }).click()
  await page.getByLabel('Day and time of publication').fill(`${lastSunday.toISOString().slice(0, 10)}T01:30`)
  await expect(page.getByText('the clocks go forward: it will be 02:30.')).toBeVisible()
  await save(page).click()
  await expect(row(page, 'A kettle called Harold').getByText(/ Mar, 02:30/)).toBeVisible()
  await expect(page.getByText('Preview of a scheduled post: readers get 404 here')).toBeVisible()
  expect(await status('/posts/a-kettle-called-harold')).toBe(404)
  expect(await (await request.get(blog('/posts'))).text()).not.toContain('A kettle called Harold')

  await page.getByText('Now', { exact: true }).click()
  await save(page).click()
  await expect(row(page, 'A kettle called Harold').getByText('published')).toBeVisible()
  expect(await status('/posts/a-kettle-called-harold')).toBe(200)
  expect(await (await request.get(blog('/posts'))).text()).toContain('A kettle called Harold')

  await page.getByLabel('Slug').fill('moth')
  await expect(page.getByText('The post “Moth” has this slug.')).toBeVisible()
  await page.getByLabel('Slug').fill('harold-the-kettle')
  await expect(page.getByText('/posts/harold-the-kettle is free.')).toBeVisible()
  await save(page).click()
  await expect(page.getByText('a-kettle-called-harold leads here.')).toBeVisible()
  expect(await status('/posts/a-kettle-called-harold')).toBe(301)

  await page.getByRole('button', { name: 'Delete', exact: true }).click()
  await expect(page.getByText('1 post deleted, with its comments')).toBeVisible()
  expect(await status('/posts/harold-the-kettle')).toBe(404)
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect(row(page, 'A kettle called Harold')).toBeVisible()
  expect(await status('/posts/harold-the-kettle')).toBe(200)
})

test('posts are found, and several changed at once', async ({ page, request, blog }) => {
  await page.getByLabel('Search titles and text').fill('darn wor')
  await expect(page.locator('.post-list .rows li')).toHaveCount(1)
  await page.getByLabel('Search titles and text').fill('')
  await page.getByLabel('Choose “The spring clean of the tool wall”').check()
  await page.getByLabel('Choose “An evening of lamps”').check()
  await page.getByRole('button', { name: 'Publish now' }).click()
  await expect(page.getByText('2 posts published')).toBeVisible()
  expect((await request.get(blog('/posts/an-evening-of-lamps'))).status()).toBe(200)
  await page.goto('/content?search=no%20such%20post')
  await expect(page.getByText('No post is like this.')).toBeVisible()
})

test('what is typed is not lost: by a reload, nor to somebody else’s save', async ({
  page,
  request,
  blog,
  api,
}) => {
  await page.goto('/content?post=brakes-that-howl')
  await page.locator('.cm-content').click()
  await page.keyboard.press('Control+Home')
  await page.keyboard.type('Mine. ')
  await expect(page.getByText('not saved; readers see what was saved last')).toBeVisible()
  page.on('dialog', (dialog) => void dialog.accept())
  await page.reload()
  await expect(page.getByText('What you had typed here is back')).toBeVisible()
  await expect(page.locator('.cm-line').first()).toContainText('Mine.')
  const address = '/api/post?slug=brakes-that-howl'
  const stored = (await (await api.get(address)).json()) as {
    version: number
    matter: object
    body: string
  }
  await api.put(address, {
    data: { version: stored.version, matter: stored.matter, body: `Theirs. ${stored.body}` },
  })
  await save(page).click()
  await expect(page.getByText('Somebody else saved this post meanwhile')).toBeVisible()
  await page.getByRole('button', { name: 'Compare' }).click()
  await expect(page.locator('.compared .removed').first()).toContainText('Theirs.')
  await expect(page.locator('.compared .added').first()).toContainText('Mine.')
  await page.getByRole('button', { name: 'Save mine' }).click()
  await expect(page.getByText('saved', { exact: true })).toBeVisible()
  expect(await (await request.get(blog('/posts/brakes-that-howl'))).text()).toContain('Mine.')
})

test('files are brought in with a report, and taken out', async ({ page }) => {
  await page.getByRole('button', { name: 'Files' }).click()
  await page.getByText('Bring in Markdown files …').click()
  const file = (name: string, text: string) => ({
    name,
    mimeType: 'text/markdown',
    buffer: Buffer.from(text),
  })
  await page
    .locator('input[type=file]')
    .setInputFiles([
      file('a-box-of-fuses.md', '---\ntitle: A box of fuses\n---\n\nAll thirteen amps.'),
      file('moth.md', 'no front matter at all'),
    ])
  await page.getByRole('button', { name: 'Bring in 2 files' }).click()
  await expect(page.getByText('2 of 2 files: 1 made, 0 changed, 0 as they were, 1 refused.')).toBeVisible()
  await expect(page.getByText('line 1: the front matter is missing')).toBeVisible()
  await page.getByRole('button', { name: 'Close', exact: true }).last().click()
  await expect(row(page, 'A box of fuses').getByText('draft')).toBeVisible()
  await page.getByRole('button', { name: 'Files' }).click()
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('link', { name: 'All posts as Markdown files' }).click(),
  ])
  expect(download.suggestedFilename()).toBe('posts.zip')
  expect(await download.failure()).toBeNull()
})

test('has no accessibility fault that axe finds', async ({ page }) => {
  await page.goto('/content?post=moth')
  await expect(page.getByRole('heading', { name: 'Where it appears now' })).toBeVisible()
  expect(await faultsForAxe(page, WCAG)).toEqual([])
})
