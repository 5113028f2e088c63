// What all areas have in common: their styles, what they remember, their focus, their editor and their previews.
import { untilLoaded } from '../scripts/chromium.ts'
import { expect, type Page } from '@playwright/test'
import { pageIn, signIn, test } from './fixtures.ts'

test.beforeEach(({ page }) => signIn(page))

const AREAS = ['walk', 'routes', 'queries', 'templates', 'cache', 'content', 'checks'] as const
type Area = (typeof AREAS)[number]

const link = (page: Page, area: Area) =>
  area === 'walk'
    ? page.getByRole('link', { name: 'Walk', exact: true }).first()
    : page.locator('.top').getByRole('link', { name: new RegExp(`^${area}`, 'i') })

/** Returns how every kind of element of the open area is laid out and coloured, by its path of classes. */
const appearance = (page: Page) =>
  page.evaluate(() => {
    const properties = [
      ...[
        'display',
        'position',
        'flex-direction',
        'flex-wrap',
        'align-items',
        'gap',
        'columns',
        'text-align',
      ],
      ...['padding', 'border-width', 'font-size', 'font-weight', 'color', 'background-color', 'overflow'],
    ]
    const found: Record<string, string> = {}
    const visit = (element: Element, path: string) => {
      const classes = [...element.classList].filter((one) => !/^(ant|css|cm|ͼ)/.test(one))
      // Ant Design's and the editor's own parts have styles of their own, which are not ours to leak.
      if (element.classList.length > classes.length && classes.length === 0) return
      const here = `${path} ${[element.localName, ...classes].join('.')}`
      const style = getComputedStyle(element)
      // As they are declared: the pixels of an automatic margin depend on the text.
      const margins = ['margin-top', 'margin-right', 'margin-bottom', 'margin-left'].map(
        (one) => `${one}: ${String(element.computedStyleMap().get(one))}`,
      )
      found[here] ??= [...properties.map((one) => `${one}: ${style.getPropertyValue(one)}`), ...margins].join(
        '; ',
      )
      if (element.localName !== 'svg') for (const child of element.children) visit(child, here)
    }
    const main = document.querySelector('main')
    if (main) visit(main, '')
    return found
  })

/** Waits until an area shows everything: nothing is added any more. */
const settled = async (page: Page, area: Area) => {
  await page.locator(`main.${area}`).waitFor()
  let count = -1
  await expect
    .poll(
      async () => {
        const before = count
        count = await page.locator('main *').count()
        return count === before
      },
      { intervals: [200] },
    )
    .toBe(true)
  return await appearance(page)
}

test('areas look the same in whichever order they are visited', async ({ page }) => {
  test.setTimeout(300_000)
  const alone = new Map<Area, Record<string, string>>()
  for (const area of AREAS) {
    // A new document, so that no stylesheet of another area is loaded.
    await page.goto(`/${area}`)
    await untilLoaded(page)
    alone.set(area, await settled(page, area))
  }
  const visit = async (area: Area, after: string) => {
    await link(page, area).click()
    const expected = alone.get(area) ?? {}
    let now: Record<string, string> = {}
    const known = () => Object.keys(expected).filter((path) => path in now)
    await expect
      .poll(async () => {
        now = await settled(page, area)
        return known().length / Object.keys(expected).length
      })
      .toBeGreaterThan(0.8)
    for (const path of known()) expect(now[path], `${path} in ${area} after ${after}`).toBe(expected[path])
  }
  // Stylesheets stay loaded, and the later one wins. In both orders, every area is loaded after every other one.
  for (const order of [AREAS, AREAS.toReversed()]) {
    const [first = 'walk', ...more] = order
    await page.goto(`/${first}`)
    await settled(page, first)
    for (const [index, area] of more.entries()) await visit(area, order[index] ?? '')
    for (const area of order) await visit(area, 'all of them')
  }
})

test('content fits into 1280, 900 and 853 pixels (1280 at 150 %), with long names', async ({ page, api }) => {
  const name = 'Household appliances with heating elements, motors and other moving parts'
  for (const kind of ['category', 'author'])
    expect(
      (await api.post('/api/terms', { data: { kind, name, slug: 'long-name', about: '' } })).status(),
    ).toBe(200)
  const matter = {
    title: `${name} Donaudampfschifffahrtsgesellschaftskapitänskajütenschlüsselbrett`,
    slug: 'long-names',
    category: 'long-name',
    author: 'long-name',
    published: 'now',
  }
  expect((await api.post('/api/posts', { data: { matter, body: 'Text.' } })).status()).toBe(200)
  for (const path of [
    'posts?post=long-names',
    'categories?open=long-name',
    'authors?open=long-name',
    'pages?page=about',
  ]) {
    await page.goto(`/content/${path}`)
    await page.locator('.content > section').last().waitFor()
    await untilLoaded(page)
    for (const width of [1280, 900, 853]) {
      await page.setViewportSize({ width, height: 800 })
      const cut = await page.evaluate(async () => {
        await new Promise(requestAnimationFrame)
        const wide = document.documentElement.clientWidth
        return [...document.querySelectorAll('main section, main li, main h1, main button, main input')]
          .filter((one) => {
            const box = one.getBoundingClientRect()
            return box.width > 0 && (box.right > wide + 1 || box.left < -1)
          })
          .map((one) => `${one.localName}.${one.className}`)
      })
      expect(cut, `${path} at ${width}`).toEqual([])
    }
  }
})

test('Write starts with an empty form, whatever was saved before', async ({ page, request, blog }) => {
  const title = page.getByLabel('Title', { exact: true })
  const save = page.getByRole('button', { name: 'Save', exact: true })
  await page.goto('/content/posts')
  for (const name of ['A first post', 'A second post']) {
    await page.getByRole('button', { name: 'Write' }).click()
    await expect(title).toHaveValue('')
    await expect(page.locator('.cm-content')).toHaveText('')
    await expect(page.getByText('Only you see it.')).toBeVisible()
    await title.fill(name)
    await page.locator('.cm-content').click()
    await page.keyboard.type(`Text of ${name}.`)
    await page.getByText('Now', { exact: true }).click()
    await save.click()
    await expect(page).toHaveURL(new RegExp(`post=${name.toLowerCase().replaceAll(' ', '-')}`))
    await expect(page.getByText('saved', { exact: true })).toBeVisible()
  }
  expect(await (await request.get(blog('/posts/a-first-post'))).text()).toContain('Text of A first post.')
  expect(await (await request.get(blog('/posts/a-second-post'))).text()).toContain('Text of A second post.')
  await page.goto('/content/pages')
  for (const name of ['A first page', 'A second page']) {
    await page.getByRole('button', { name: 'Write' }).click()
    await expect(title).toHaveValue('')
    await expect(page.locator('.cm-content')).toHaveText('')
    await title.fill(name)
    await save.click()
    await expect(page).toHaveURL(new RegExp(`page=${name.toLowerCase().replaceAll(' ', '-')}`))
  }
})

test('the editor keeps typed closing tags, braces and quotes single', async ({ page }) => {
  await page.goto('/templates?open=templates/partials/card.liquid')
  const editor = page.locator('.cm-content')
  await editor.click()
  await page.keyboard.press('Control+a')
  const typed = '<p class="a">{% if post %}{{ post.title }}{% endif %}</p><script src=\'x\'></script>'
  await page.keyboard.type(typed)
  await expect(editor).toHaveText(typed)
  await page.getByRole('button', { name: 'Discard' }).click()
})

test('a missing asset can be created from the problem that names it', async ({ page, request, blog }) => {
  // The line of the end of the head.
  await page.goto('/templates?open=templates/layouts/base.liquid&line=23')
  const editor = page.locator('.cm-content')
  await expect(editor).toContainText('</head>')
  await editor.focus()
  await page.keyboard.press('Home')
  await page.keyboard.type(`<link rel="stylesheet" href="{{ 'extra.css' | asset }}">`)
  await page.keyboard.press('Control+s')
  await page.getByRole('button', { name: 'Create assets/extra.css' }).click()
  await expect(page.getByText('assets/extra.css was created.')).toBeVisible()
  await page.keyboard.press('Control+s')
  await expect(page.getByText('templates/layouts/base.liquid was saved.')).toBeVisible()
  const [, address = ''] =
    /href="([^"]*extra[^"]*\.css)"/.exec(await (await request.get(blog('/'))).text()) ?? []
  expect((await request.get(new URL(address, blog('/')).href)).status()).toBe(200)
})

test('the walked page and the previews apply the blog’s own policy: inline styles have no effect', async ({
  page,
  blog,
}) => {
  // Inside the last block, so that the layout prints it.
  await page.goto('/templates?open=templates/pages/post.liquid')
  await page.locator('.cm-line', { hasText: '<article' }).first().click()
  await page.keyboard.press('Home')
  await page.keyboard.type('<p id="inline" style="color: rgb(255, 0, 0)">Red?</p>')
  await page.keyboard.press('Control+s')
  await expect(page.getByText('templates/pages/post.liquid was saved.')).toBeVisible()
  const colour = (element: Element) => getComputedStyle(element).color
  await page.goto(blog('/posts/moth'))
  const read = await page.locator('#inline').evaluate(colour)
  expect(read).not.toBe('rgb(255, 0, 0)')
  for (const address of ['/walk?path=/posts/moth', '/content/posts?post=moth']) {
    await page.goto(address)
    // The text may be there before the stylesheet of the framed page.
    await expect(pageIn(page).locator('#inline')).toHaveCSS('color', read)
  }
})

test('a query is added to a route with the keyboard alone, and the right one is saved', async ({
  page,
  api,
}) => {
  await page.goto('/routes?route=category')
  await page.getByRole('button', { name: /^Route category:/ }).click()
  await page.getByText('Edit', { exact: true }).click()
  const add = page.getByRole('button', { name: 'Add query' })
  await expect(add).toBeEnabled()
  await add.focus()
  await page.keyboard.press('Enter')
  // Focus stands in the query of the new row.
  const chosen = page.locator('.entry').last().getByRole('combobox').first()
  await expect(chosen).toBeFocused()
  await page.keyboard.type('latest-posts')
  await page.keyboard.press('Enter')
  await expect(page.locator('.entry').last()).toContainText('latest-posts')
  const routes = async () => {
    const { text } = (await (await api.get('/api/document?path=routes.yaml')).json()) as { text: string }
    return text
  }
  expect(await routes()).not.toMatch(/name: category[\s\S]*latest-posts[\s\S]*name: tag/)
  await page.keyboard.press('Control+s')
  await expect(page.getByText('Route “category” was saved.')).toBeVisible()
  expect(await routes()).toMatch(/latest-posts/)
})

test('Walk is passed with a few Tabs, and a key skips the page', async ({ page }) => {
  await page.goto('/walk?path=/posts')
  await pageIn(page).locator('article').first().waitFor()
  await page.getByRole('tab', { name: 'Headers' }).focus()
  const skip = page.getByRole('button', { name: 'Skip the page' })
  for (
    let presses = 0;
    presses < 6 && !(await skip.evaluate((one) => one === document.activeElement));
    presses++
  )
    await page.keyboard.press('Tab')
  await expect(skip).toBeFocused()
  await page.keyboard.press('Enter')
  await page.keyboard.press('Tab')
  const isAfterPage = await page.evaluate(() => {
    const frame = document.querySelector('.page-frame')
    return frame !== null && (frame.compareDocumentPosition(document.activeElement ?? frame) & 4) !== 0
  })
  expect(isAfterPage).toBe(true)
})

/** Whether the focus is on something of the page, not on its body. */
const expectFocus = async (page: Page, what: string) =>
  await expect
    .poll(() => page.evaluate(() => document.activeElement?.localName ?? 'body'), { message: what })
    .not.toBe('body')

test('after every action, focus stays where the work goes on', async ({ page }) => {
  await page.goto('/templates?open=templates/partials/card.liquid')
  await page.locator('.cm-content').click()
  await page.keyboard.type('x')
  await page.getByRole('button', { name: 'Discard' }).click()
  await expect(page.locator('.cm-content')).toBeFocused()
  await page.keyboard.type('<!-- y -->')
  await page.getByRole('button', { name: 'Save', exact: true }).click()
  await expect(page.getByText('templates/partials/card.liquid was saved.')).toBeVisible()
  await expect(page.locator('.cm-content')).toBeFocused()

  await page.goto('/content/categories?open=lamps')
  await page.getByLabel('Name').fill('Lamps and lights')
  await page.keyboard.press('Control+s')
  await expect(page.getByText('“Lamps and lights” was saved.')).toBeVisible()
  await expectFocus(page, 'Save a category')

  await page.goto('/content/pages?page=about')
  await page.getByRole('button', { name: 'Change slug' }).click()
  await page.getByRole('button', { name: 'Cancel' }).click()
  await expectFocus(page, 'Cancel')
  const handle = page.getByRole('button', { name: 'Move page “About us”' })
  await handle.focus()
  await page.keyboard.press('Alt+ArrowUp')
  await expect(page.getByText('“About us” was moved.')).toBeVisible()
  await expect(handle).toBeFocused()

  await page.goto('/queries?open=queries/latest-posts.yaml')
  await page.getByRole('button', { name: 'Add condition', exact: true }).click()
  await page.getByRole('menuitem', { name: 'Compare a field…' }).click()
  await expectFocus(page, 'Add condition')
})

test('Ctrl+S saves in every area that has something to save', async ({ page }) => {
  await page.goto('/routes')
  await page.getByRole('button', { name: /^Route category:/ }).click()
  await page.getByText('Edit', { exact: true }).click()
  await page.getByLabel('Path').fill('/topics/:category')
  await page.keyboard.press('Control+s')
  await expect(page.getByText('Route “category” was saved.')).toBeVisible()

  await page.goto('/queries?open=queries/latest-posts.yaml')
  await page.getByLabel('Number of rows').first().waitFor()
  await page.getByText('YAML', { exact: true }).click()
  await page.locator('.cm-content').click()
  await page.keyboard.press('Control+Home')
  await page.keyboard.type('# Newest\n')
  await page.keyboard.press('Control+s')
  await expect(page.getByText('queries/latest-posts.yaml was saved.')).toBeVisible()

  await page.goto('/content/html')
  await page.getByRole('checkbox', { name: 'u', exact: true }).click()
  await page.keyboard.press('Control+s')
  await expect(page.getByText('Saved in blog.yaml.', { exact: false })).toBeVisible()

  await page.goto('/content/tags?open=glue')
  await page.getByLabel('Name').fill('Hand tools')
  await page.keyboard.press('Control+s')
  await expect(page.getByText('“Hand tools” was saved.')).toBeVisible()

  await page.goto('/content/pages?page=about')
  await page.getByLabel('Title', { exact: true }).fill('About all of us')
  await page.keyboard.press('Control+s')
  await expect(page.getByText('“About all of us” was saved.')).toBeVisible()
})

test('an area remembers what was open, and returns to it', async ({ page }) => {
  await page.goto('/templates?open=templates/partials/card.liquid')
  await page.locator('.cm-content').waitFor()
  await link(page, 'queries').click()
  await page.getByRole('button', { name: /^latest-posts/ }).click()
  await link(page, 'content').click()
  await page.locator('main.content').waitFor()
  await link(page, 'templates').click()
  await expect(page.locator('.editor-head')).toContainText('templates/partials/card.liquid')
  await link(page, 'queries').click()
  await expect(page).toHaveURL(/latest-posts/)
})
