// Sizes of images: which there are, and the HTML that offers them, as HTML’s “Images” (§4.8.4) and RFC 9110 say.
import { HtmlValidate } from 'html-validate/node'
import { describe, expect, it } from 'vitest'
import { pictureElement, sizeNamed, widthsOf } from './images.ts'
import { renderMarkdown } from './html/markdown.ts'

const photo = { name: 'wheel.jpg', width: 1000, height: 750, text: 'A wheel' }

describe('widths', () => {
  it.each([
    [100, [100]],
    [320, [320]],
    [1000, [320, 480, 640, 960, 1000]],
    [2560, [320, 480, 640, 960, 1280, 1920, 2560]],
    [6000, [320, 480, 640, 960, 1280, 1920, 2560]],
  ])('of an image that is %i pixels wide', (width, expected) => {
    expect(widthsOf({ width })).toEqual(expected)
  })
  it('no step sends more than twice the pixels that are needed', () => {
    const widths = widthsOf({ width: 2560 })
    for (const [index, width] of widths.entries())
      if (index > 0) expect((width / (widths[index - 1] ?? 0)) ** 2).toBeLessThan(2.3)
  })
  it.each(['320.webp', '1000.avif'])('%s is made', (text) => {
    expect(sizeNamed(photo, text)).toBeDefined()
  })
  it.each(['321.webp', '1280.webp', '0320.webp', '320.jpg', '320.webp.webp', '-320.webp', '320', ''])(
    '“%s” is not made',
    (text) => {
      expect(sizeNamed(photo, text)).toBeUndefined()
    },
  )
  it.each(['a.svg', 'a.gif'])('%s has no sizes', (name) => {
    expect(sizeNamed({ ...photo, name }, '320.webp')).toBeUndefined()
  })
  it('WebP is not made AVIF, which would stop its animation', () => {
    expect(sizeNamed({ ...photo, name: 'a.webp' }, '320.avif')).toBeUndefined()
    expect(sizeNamed({ ...photo, name: 'a.webp' }, '320.webp')).toBeDefined()
  })
})

describe('HTML', () => {
  const shown = { sizes: '100vw', loading: 'lazy' } as const
  it('every address in it is one of a size that is made', () => {
    const html = pictureElement(photo, shown)
    const sizes = [...html.matchAll(/\/media\/wheel\.jpg\/(\S+) (\d+)w/g)]
    expect(sizes.length).toBe(10)
    for (const [, size = '', width] of sizes) expect(sizeNamed(photo, size)?.width).toBe(Number(width))
  })
  it('reserves its place, and is loaded late only if it may be', () => {
    expect(pictureElement(photo, shown)).toContain('width="1000" height="750" alt="A wheel" loading="lazy"')
    const early = pictureElement(photo, { ...shown, loading: 'eager' })
    expect([early.includes('lazy'), early.includes('auto,')]).toEqual([false, false])
  })
  it('texts cannot leave their attributes', () => {
    const html = pictureElement(
      { ...photo, text: '"><script>' },
      { ...shown, sizes: '"><b>', class: '" onload="x' },
    )
    expect(html).not.toMatch(/<script|<b>|" onload/)
  })
  it('is valid for html-validate', async () => {
    const report = await new HtmlValidate({ extends: ['html-validate:standard'] }).validateString(
      `<div>${pictureElement(photo, shown)}</div>`,
    )
    expect(report.results.flatMap((one) => one.messages.map(({ message }) => message))).toEqual([])
  })
})

describe('images in texts', () => {
  const sizeOf = (address: string) =>
    /^\/media\/(wheel\.jpg|cup\.svg)$/.test(address) ? { width: 1000, height: 750 } : undefined
  const render = (text: string) => renderMarkdown(text, { sizeOf }).html
  const plain = (html: string) => html.replace(/<\/?(picture|source)[^>]*>/g, '')

  it('are offered in all sizes', () => {
    const html = render('![A wheel](/media/wheel.jpg)')
    expect(html).toMatch(
      /^<p><picture>(<source type="image\/(avif|webp)" [^>]*>){2}<img [^>]*><\/picture><\/p>/,
    )
    expect(html).toContain('sizes="auto, ')
  })
  it.each(['![a](/media/cup.svg)', '![a](/media/gone.jpg)', '![a](https://a.example/media/wheel.jpg)'])(
    '%s is left as it is',
    (text) => {
      expect(render(text)).not.toContain('picture')
    },
  )
  it('nothing else of the HTML changes, whatever is around them', () => {
    const text =
      '<details><summary>a &amp; b</summary>\n\n> ![a <b>](/media/wheel.jpg) & “x” ![](/media/wheel.jpg)\n\n</details>\n\n`<img src="/media/wheel.jpg">`'
    const without = renderMarkdown(text, { sizeOf: (address) => sizeOf(address) }).html
    expect(plain(render(text))).toBe(plain(without))
    expect([...render(text).matchAll(/<picture>/g)]).toHaveLength(2)
  })
  it('a title of an image on its own is its caption', () => {
    expect(plain(render('![A cup](/media/cup.svg "The *first* <cup>")'))).toMatch(
      /^<figure><img [^>]*alt="A cup"[^>]*><figcaption>The \*first\* &lt;cup&gt;<\/figcaption><\/figure>/,
    )
    expect(render('![A cup](/media/cup.svg "The cup")')).not.toContain('title=')
  })
  it.each([
    '![A cup](/media/cup.svg "The cup") and text',
    '![A cup](/media/cup.svg)',
    '- ![A cup](/media/cup.svg "The cup")',
    '[![A cup](/media/cup.svg "The cup")](/posts)',
  ])('%s is no figure', (text) => {
    expect(render(text)).not.toContain('<fig')
  })
})
