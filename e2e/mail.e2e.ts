// E-mail about comments through the built-in test server, as a reader and an author see it.
import { expect } from '@playwright/test'
import { faultsForAxe, signIn, test } from './fixtures.ts'

test('a reader asks for replies by e-mail, confirms it, and the reply arrives in the outbox', async ({
  page,
  blog,
  browser,
}) => {
  const reader = await browser.newPage()
  await reader.goto(blog('/posts/the-toaster-inquest'))
  await reader.getByLabel('Your name').fill('Vera')
  await reader.getByLabel('Your comment').fill('Which screwdriver was it?')
  await reader.getByLabel('Send me an e-mail when somebody replies').check()
  await reader.getByRole('button', { name: 'Send comment' }).click()
  await expect(reader.getByRole('link', { name: 'Enter the e-mail address for replies.' })).toBeVisible()
  expect(await faultsForAxe(reader)).toEqual([])
  await reader.getByLabel(/^E-mail/).fill('vera@reader.example')
  await reader.getByRole('button', { name: 'Send comment' }).click()
  await expect(reader.getByText('We have sent you an e-mail.')).toBeVisible()

  await signIn(page)
  await page.goto('/comments?state=mail')
  const list = page.getByRole('region', { name: 'Mail, newest first' })
  await list.getByRole('button', { name: /Confirm e-mails about replies/ }).click()
  await page.getByRole('button', { name: 'Show headers' }).click()
  await expect(page.getByText('auto-generated')).toBeVisible()
  expect(await faultsForAxe(page)).toEqual([])
  const link = page.locator('pre a')
  await reader.goto((await link.getAttribute('href')) ?? '')
  expect(await faultsForAxe(reader)).toEqual([])
  await reader.getByRole('button', { name: 'Yes, e-mail me' }).click()
  await expect(reader.getByText('You will get an e-mail at v…@reader.example')).toBeVisible()

  await page.goto('/comments?search=screwdriver')
  await expect(page.getByRole('button', { name: 'Reply R' })).toBeVisible()
  await page.keyboard.press('r')
  await page.getByLabel(/^Reply to Vera as/).fill('The small one.')
  await page.getByRole('button', { name: 'Send reply and show' }).click()
  await expect(page.getByText('The reply was sent.')).toBeVisible()
  await page.goto('/comments?state=mail&search=vera@')
  await list.getByRole('button', { name: / replied on / }).click()
  await expect(page.locator('pre')).toContainText('> The small one.')
  await expect(list.getByText('1 subscription to replies')).toBeVisible()

  const [toReply, stop] = await page.locator('pre a').all()
  await reader.goto((await toReply?.getAttribute('href')) ?? '')
  await expect(reader.getByText('The small one.')).toBeVisible()
  await reader.goto((await stop?.getAttribute('href')) ?? '')
  await reader.getByRole('button', { name: 'Stop e-mails about this comment' }).click()
  await expect(reader.getByText('You will not get e-mails at v…@reader.example')).toBeVisible()
  await reader.close()
})
