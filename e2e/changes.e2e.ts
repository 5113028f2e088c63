// The Changes area: what was changed is found again after a reload, and each step is undone.
import { expect } from '@playwright/test'
import { signIn, test } from './fixtures.ts'

test('changes of content and definition are listed, shown before and after, and undone', async ({
  page,
  blog,
  api,
}) => {
  await signIn(page)
  const post = async () =>
    (await (await api.get('/api/post?slug=moth')).json()) as { version: number; matter: { category: string } }
  const { version } = await post()
  const change = { posts: [{ slug: 'moth', version }], change: { category: 'bicycles' } }
  expect((await api.post('/api/posts/change', { data: change })).status()).toBe(200)
  await page.goto('/templates?open=templates/layouts/base.liquid')
  await page.locator('.cm-content').click()
  await page.keyboard.press('Control+Home')
  await page.keyboard.type('{# top #}')
  await page.keyboard.press('Control+s')
  await expect(page.getByText('templates/layouts/base.liquid was saved.')).toBeVisible()

  await page.goto('/changes')
  await page.getByRole('button', { name: /templates\/layouts\/base\.liquid changed/ }).click()
  await expect(page.getByText('+ {# top #}', { exact: false })).toBeVisible()
  await page.reload()
  await expect(page.getByText('+ {# top #}', { exact: false })).toBeVisible()

  await expect(page.locator('.steps .list [aria-current]')).toBeVisible()
  await page.keyboard.press('j')
  const detail = page.getByRole('region', { name: 'This change' })
  await expect(detail.getByRole('row', { name: 'category Textiles Bicycles' })).toBeVisible()
  await detail.getByRole('button', { name: 'Undo' }).click()
  await expect(page.getByText('The change was undone.')).toBeVisible()
  await expect(detail.getByText('This change is undone.')).toBeVisible()
  expect((await post()).matter.category).toBe('textiles')
  await detail.getByRole('button', { name: 'Show the undo' }).click()
  await expect(detail.getByRole('row', { name: 'category Bicycles Textiles' })).toBeVisible()
  expect((await page.request.get(blog('/posts'))).status()).toBe(200)

  await page.getByLabel('Show').click()
  await page.getByText('Definition', { exact: true }).click()
  await expect(page.getByRole('button', { name: /Moth/ })).toHaveCount(0)
})
