// Writing posts: after each step, the test checks what the blog shows.
import { expect, type Page } from '@playwright/test'
import { WCAG, faultsForAxe, pageIn, signIn, test } from './fixtures.ts'

test.beforeEach(async ({ page }) => {
  await signIn(page)
  await page.goto('/content')
  await expect(page.getByRole('heading', { name: 'Open a post, or write one' })).toBeVisible()
})

const title = (page: Page) => page.getByLabel('Title', { exact: true })
const save = (page: Page) => page.getByRole('button', { name: 'Save', exact: true })
const row = (page: Page, name: string) => page.locator('.post-list li', { hasText: name })

test('a post is written, scheduled, published, renamed, deleted and restored', async ({
  page,
  request,
  blog,
}) => {
  const status = async (path: string) => (await request.get(blog(path), { maxRedirects: 0 })).status()
  await page.getByRole('button', { name: 'Write' }).click()
  await title(page).fill('A kettle called Harold')
  await page.locator('.cm-content').click()
  await page.keyboard.type('It whistles.')
  await page.keyboard.press('Control+a')
  await page.keyboard.press('Control+b')
  // The preview follows the typing, with the blog’s own template.
  const preview = pageIn(page)
  await expect(preview.locator('.text strong')).toHaveText('It whistles.')
  await expect(preview.getByText('Not published yet')).toBeVisible()
  // A draft is saved automatically, and the cursor stays where it was.
  await expect(row(page, 'A kettle called Harold').getByText('draft')).toBeVisible()
  await expect(page).toHaveURL(/post=a-kettle-called-harold/)
  await page.keyboard.press('Control+End')
  await page.keyboard.type(' Often.')
  await expect(preview.locator('.text')).toHaveText('It whistles. Often.')
  expect(await status('/posts/a-kettle-called-harold')).toBe(404)
  await expect(
    page.getByRole('heading', { name: 'Where it would appear if it were published now' }),
  ).toBeVisible()
  await expect(page.getByText('1st on the first page').first()).toBeVisible()

  // Scheduled for 01:30 in the night in which clocks go forward. This time does not exist.
  const year = new Date().getUTCFullYear() + 1
  const lastSunday = new Date(Date.UTC(year, 2, 31))
  lastSunday.setUTCDate(31 - lastSunday.getUTCDay())
  await page.getByText('Scheduled for…', { exact: true }).click()
  const shown = lastSunday.toLocaleDateString('en-GB', {
    day: 'numeric',
    month: 'short',
    year: 'numeric',
    timeZone: 'UTC',
  })
  const picker = page.getByLabel('Date and time of publication')
  await picker.focus()
  await page.keyboard.press('Control+a')
  await page.keyboard.type(`${shown}, 01:30`)
  await picker.press('Enter')
  await expect(page.getByText('because clocks go forward. 02:30 is used.')).toBeVisible()
  await save(page).click()
  await expect(row(page, 'A kettle called Harold').getByText(/ Mar \d{4}, 02:30/)).toBeVisible()
  await expect(page.getByText('of a scheduled post. Readers get 404 here.')).toBeVisible()
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
  await expect(page.getByText('a-kettle-called-harold redirects here.')).toBeVisible()
  expect(await status('/posts/a-kettle-called-harold')).toBe(301)

  await page.getByRole('button', { name: 'Delete', exact: true }).click()
  await expect(page.getByText('1 post deleted, with its comments.')).toBeVisible()
  expect(await status('/posts/harold-the-kettle')).toBe(404)
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect(row(page, 'A kettle called Harold')).toBeVisible()
  expect(await status('/posts/harold-the-kettle')).toBe(200)
})

test('posts are searched, and several are published at once', async ({ page, request, blog }) => {
  await page.getByLabel('Search titles and text').fill('darn wor')
  await expect(page.locator('.post-list .rows li')).toHaveCount(1)
  await page.getByLabel('Search titles and text').fill('')
  await page.getByLabel('Select “The spring clean of the tool wall”').check()
  await page.getByLabel('Select “An evening of lamps”').check()
  await page.getByRole('button', { name: 'Publish', exact: true }).click()
  await expect(page.getByText('2 posts published.')).toBeVisible()
  expect((await request.get(blog('/posts/an-evening-of-lamps'))).status()).toBe(200)
  await page.goto('/content?search=no%20such%20post')
  await expect(page.getByText('No posts match.')).toBeVisible()
})

test('unsaved text survives a reload and someone else’s save', async ({ page, request, blog, api }) => {
  await page.goto('/content?post=brakes-that-howl')
  await page.locator('.cm-content').click()
  await page.keyboard.press('Control+Home')
  await page.keyboard.type('Mine. ')
  await expect(page.getByText('not saved; readers see the saved version')).toBeVisible()
  page.on('dialog', (dialog) => void dialog.accept())
  await page.reload()
  await expect(page.getByText('Your unsaved text was restored.')).toBeVisible()
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
  await expect(page.getByText('Someone else has saved this post since you opened it.')).toBeVisible()
  await page.getByRole('button', { name: 'Compare' }).click()
  await expect(page.locator('.compared .removed').first()).toContainText('Theirs.')
  await expect(page.locator('.compared .added').first()).toContainText('Mine.')
  await page.getByRole('button', { name: 'Save mine' }).click()
  await expect(page.getByText('saved', { exact: true })).toBeVisible()
  expect(await (await request.get(blog('/posts/brakes-that-howl'))).text()).toContain('Mine.')
})

test('files are imported with a report, and all posts are exported', async ({ page }) => {
  await page.getByRole('button', { name: 'Files' }).click()
  await page.getByText('Import Markdown…').click()
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
  await page.getByRole('button', { name: 'Import 2 files' }).click()
  await expect(page.getByText('Nothing was imported, because 1 file was refused.')).toBeVisible()
  await expect(page.getByText('line 1: The front matter is missing.')).toBeVisible()
  await page.getByRole('button', { name: 'Import the other file' }).click()
  await expect(page.getByText('2 files: 1 created, 0 changed, 0 unchanged, 1 refused.')).toBeVisible()
  await page.getByRole('button', { name: 'Close', exact: true }).last().click()
  await expect(row(page, 'A box of fuses').getByText('draft')).toBeVisible()
  await page.getByRole('button', { name: 'Files' }).click()
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('menuitem', { name: 'Export all posts as Markdown' }).click(),
  ])
  expect(download.suggestedFilename()).toBe('posts.zip')
  expect(await download.failure()).toBeNull()
})

test('axe finds nothing', async ({ page }) => {
  await page.goto('/content?post=moth')
  await expect(page.getByRole('heading', { name: 'Where it appears' })).toBeVisible()
  expect(await faultsForAxe(page, WCAG)).toEqual([])
})
