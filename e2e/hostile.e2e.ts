// Script injection through every field that an author can fill, in a real browser, on the blog and in the workbench.
import { untilLoaded } from '../scripts/chromium.ts'
import { expect } from '@playwright/test'
import { signIn, test } from './fixtures.ts'
import { imagesSettled, RUN, VECTORS } from './vectors.ts'

test('no field of a post, page, category, tag or author runs a script, on the blog or in the workbench', async ({
  page,
  api,
  esquina: { blog, workbench },
}) => {
  const post = async <T>(path: string, data: object) => {
    const response = await api.post(path, { data })
    expect(response.status(), await response.text()).toBe(200)
    return (await response.json()) as T
  }
  const ran: string[] = []
  page.on('dialog', (dialog) => {
    ran.push(`dialog: ${dialog.message()}`)
    void dialog.dismiss()
  })
  const look = async (address: string) => {
    await page.goto(address)
    // The workbench loads its data with scripts. On the blog, only images and their events may still follow.
    if (address.startsWith(workbench)) await untilLoaded(page)
    else await page.evaluate(imagesSettled)
    if ((await page.evaluate(() => '__ran' in window)) as boolean) ran.push(address)
    for (const frame of page.frames().slice(1))
      if (await frame.evaluate(() => '__ran' in window).catch(() => false)) ran.push(`${address} in a frame`)
    // Nothing that can be clicked runs a script.
    expect(
      await page
        .locator(
          '[href^="javascript:" i], [action^="javascript:" i], iframe[srcdoc*="__ran"][sandbox*="allow-scripts"]',
        )
        .count(),
    ).toBe(0)
  }
  const made: { slug: string; page: string }[] = []
  await post('/api/terms', {
    kind: 'category',
    name: VECTORS[1],
    slug: 'hostile',
  })
  await post('/api/terms', {
    kind: 'author',
    name: VECTORS[2],
    slug: 'hostile',
    about: VECTORS.join(' '),
  })
  await post('/api/terms', {
    kind: 'tag',
    name: VECTORS[4],
    slug: 'hostile',
  })
  for (const [index, vector] of VECTORS.entries()) {
    const saved = await post<{ slug: string }>('/api/posts', {
      matter: {
        title: vector,
        slug: `hostile-${index}`,
        excerpt: vector,
        published: 'now',
        category: 'hostile',
        author: 'hostile',
        tags: ['hostile'],
        image: 'sign.svg',
        'image-text': vector.slice(0, 300),
      },
      body: `${vector}\n\n${vector}\n\n# ${vector}\n\n| ${vector.replaceAll('|', '\\|')} |\n|---|\n| x |\n\n![${vector}](/media/sign.svg)\n\n\`\`\`html\n${vector}\n\`\`\``,
    })
    const { path } = await post<{ path: string }>('/api/pages', {
      title: vector,
      slug: `hostile-${index}`,
      body: vector,
      inNavigation: index < 4,
    })
    made.push({ slug: saved.slug, page: path })
  }
  for (const address of [
    '/',
    '/posts',
    '/posts?page=2',
    '/category/hostile',
    ...made.flatMap((one) => [`/posts/${one.slug}`, `/${one.page}`]),
  ])
    await look(blog + address)
  await signIn(page)
  for (const address of [
    '/content/posts?post=hostile-0',
    '/content/posts?post=hostile-10&view=page',
    '/content/pages?page=hostile-3',
    '/content/categories?open=hostile',
    '/content/authors?open=hostile',
    '/content/tags?open=hostile',
    '/walk?path=/posts/hostile-2',
    '/checks',
  ])
    await look(workbench + address)
  expect(ran).toEqual([])
  // The detection works: a script that runs is noticed.
  await page.goto(`${blog}/`)
  await page.evaluate(`${RUN}`)
  expect(await page.evaluate(() => '__ran' in window)).toBe(true)
})
