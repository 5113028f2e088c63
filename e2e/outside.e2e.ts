// An outside comment service: one setting switches the demo to it and back, and comments move both ways.
import { expect } from '@playwright/test'
import { faultsForAxe, signIn, test } from './fixtures.ts'

test('the demo switches to the built-in service, comments are copied both ways, and the form returns', async ({
  page,
  blog,
  browser,
}) => {
  await signIn(page)
  await page.goto('/comments?state=rules')
  const form = page.getByRole('region', { name: 'Comment rules' })
  await form.getByRole('combobox', { name: 'Stored in' }).click()
  await page.getByTitle('Built-in test service').click()
  await expect(form.getByText('Save to connect to the service.')).toBeVisible()
  await page.keyboard.press('Control+s')
  await expect(page.getByText('The comment rules were saved.')).toBeVisible()
  await expect(form.getByText('209 comments in this blog, 0 at the service.')).toBeVisible()
  expect(await faultsForAxe(page)).toEqual([])
  await form.getByRole('button', { name: 'Copy all to the service' }).click()
  await expect(page.getByText('209 comments copied to the service.')).toBeVisible()

  const reader = await browser.newPage()
  const blocked: string[] = []
  reader.on('console', (message) => {
    if (message.type() === 'error') blocked.push(message.text())
  })
  await reader.goto(blog('/posts/truing-a-wheel-with-two-spoons'))
  const thread = reader.frameLocator('iframe[title="Comments"]')
  await reader.locator('#comments').scrollIntoViewIfNeeded()
  await expect(thread.getByText('Three times round it is.')).toBeVisible()
  await expect(thread.getByText('Lovely write-up')).toHaveCount(0)
  await thread.getByLabel('Your name').fill('Vera')
  await thread.getByLabel('Your comment').fill('Said <b>elsewhere</b>.')
  await thread.getByRole('button', { name: 'Send' }).click()
  await expect(thread.getByText('Said <b>elsewhere</b>.')).toBeVisible()
  expect(blocked).toEqual([])

  await form.getByRole('button', { name: 'Copy all from the service' }).click()
  await expect(page.getByText('1 comment copied from the service; 209 already existed.')).toBeVisible()
  await form.getByRole('combobox', { name: 'Stored in' }).click()
  await page.getByTitle('This blog').click()
  await page.keyboard.press('Control+s')
  await expect(form.getByText('209 comments in this blog')).toHaveCount(0)
  await expect(async () => {
    await reader.reload()
    await expect(reader.getByLabel('Your comment')).toBeVisible({ timeout: 1_000 })
  }).toPass()
  await expect(reader.getByText('Said <b>elsewhere</b>.')).toBeVisible()
  await reader.close()
})
