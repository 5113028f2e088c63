// The Cache area: a rule that shows old texts is found by a rehearsal and mended, copies are looked at, and what if.
import { expect } from '@playwright/test'
import { faultsForAxe, signIn, test } from './fixtures.ts'

test('a rule by age only is rehearsed, found to show old texts, and refreshed on change again', async ({
  page,
  blog,
}) => {
  for (const path of ['/', '/posts', '/posts', '/archive']) await page.goto(blog(path))
  await signIn(page)
  await page.goto('/cache')
  const rules = page.getByRole('region', { name: 'Pages and fragments' })
  await expect(rules.getByRole('row', { name: /aside/ })).toContainText('on change, or by age')
  await expect(rules.getByRole('row', { name: /posts/ }).first()).toContainText('%')
  expect(await faultsForAxe(page)).toEqual([])
  await page.getByTitle('Change the rule of aside').click()
  const dialog = page.getByRole('dialog', { name: 'Fragment aside' })
  await dialog.getByRole('combobox').click()
  await page.getByTitle('by age only').click()
  await expect(dialog).toContainText('whatever changes')
  await dialog.getByRole('button', { name: 'Save' }).click()
  await expect(page.getByText('The rule of “aside” is saved.')).toBeVisible()
  await expect(rules.getByRole('row', { name: /aside/ })).toContainText('by age only')
  await expect(page.getByText(/^\d+ gaps$/)).toBeVisible()
  await expect(
    page
      .getByRole('row', { name: /^aside/ })
      .getByRole('img', { name: 'shown, but refreshed by age only' })
      .first(),
  ).toBeVisible()

  const rehearsal = page.getByRole('region', { name: 'Rehearse a change' })
  await rehearsal.getByRole('textbox', { name: 'New value' }).fill('Truing, gently')
  await rehearsal.getByRole('button', { name: 'Rehearse' }).click()
  await expect(rehearsal.locator('.figures .bad')).toContainText('1')
  await expect(rehearsal.getByText('Truing, gently').last()).toBeVisible()
  await expect(rehearsal.getByText('All kept copies would be rendered with the same text.')).toBeVisible()
  expect(await faultsForAxe(page)).toEqual([])
  await rehearsal.getByRole('button', { name: 'Refresh it on change' }).click()
  await expect(page.getByText('“aside” is refreshed on change.')).toBeVisible()
  await rehearsal.getByRole('button', { name: 'Rehearse' }).click()
  await expect(rehearsal.locator('.figures')).toContainText('0left stale')
})

test('copies are looked at, dropped and compared, and another traffic is simulated', async ({
  page,
  blog,
}) => {
  for (const path of ['/posts', '/archive']) await page.goto(blog(path))
  await signIn(page)
  await page.goto('/cache?part=copies')
  const copies = page.getByRole('region', { name: 'Copies' })
  const row = copies.getByRole('row', { name: /archive/ })
  await row.getByRole('button').click()
  await expect(copies.locator('pre')).toContainText('<!doctype html>')
  await copies.getByRole('button', { name: 'Drop' }).click()
  await expect(page.getByText('The copy is dropped.')).toBeVisible()
  await expect(row).toHaveCount(0)
  const audit = page.getByRole('region', { name: 'Audit' })
  await audit.getByRole('button', { name: 'Compare all copies' }).click()
  await expect(audit.getByText(/^\d+ copies compared: all of them are up to date\.$/)).toBeVisible()
  await page.getByRole('button', { name: 'What if' }).click()
  await expect(page.getByRole('row', { name: /answered from copies/ })).toContainText('%')
  await expect(page.getByRole('row', { name: /stale answers/ })).toContainText('0.0 %')
  await expect(page.locator('.curves figure')).toHaveCount(3)
  expect(await faultsForAxe(page)).toEqual([])
})

test('the edge cache stores pages, is purged by an edit, and is switched off again', async ({ page }) => {
  await signIn(page)
  await page.goto('/cache?part=edge')
  const edge = page.getByRole('region', { name: 'Edge cache' })
  await edge.getByLabel('Store pages').click()
  await page.getByTitle('For up to 10m').click()
  await expect(edge.getByText('up to date')).toBeVisible()
  const origin =
    (await edge.getByRole('link', { name: 'Open the blog through the edge cache' }).getAttribute('href')) ??
    ''
  const read = async () => (await page.request.get(`${origin}/archive`)).text()
  for (let times = 0; times < 3; times++) await read()
  await expect(edge.getByRole('row', { name: /\/archive/ })).toBeVisible()
  await expect(edge.getByText(/^[1-9]\d* requests? served from the edge cache/)).toBeVisible()
  expect(await faultsForAxe(page)).toEqual([])

  await page.goto('/content/posts?post=truing-a-wheel-with-two-spoons')
  await page.getByLabel('Title', { exact: true }).fill('Truing, purged at the edge')
  const saved = page.waitForResponse((one) => one.request().method() === 'PUT' && one.ok())
  await page.getByRole('button', { name: 'Save', exact: true }).click()
  await saved
  expect(await read()).toContain('Truing, purged at the edge')

  await page.goto('/cache?part=edge')
  await expect(edge.getByText('posts.title')).toBeVisible()
  await edge.getByLabel('Store pages').click()
  await page.getByTitle('Off').click()
  await expect(edge.getByText('Off: every page is requested from the blog.')).toBeVisible()
})
