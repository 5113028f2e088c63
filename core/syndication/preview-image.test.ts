// Preview images: titles fit, whatever their length, drawn here with letters of equal width.
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { drawPreview, PREVIEW_SIZE, type Outline } from './preview-image.ts'

/** Each letter is half as wide as high; the markup says what was drawn. */
const outline: Outline = (text, size) => ({
  width: [...text].length * size * 0.5,
  markup: `<text>${size} ${text.replace(/[&<>]/g, '')}</text>`,
})
const drawn = (title: string, blog = 'Blog') =>
  [...drawPreview({ title, blog, colours: {} }, outline).matchAll(/<text>(\d+) ([^<]*)<\/text>/g)].map(
    ([, size, text = '']) => ({ size: Number(size), text }),
  )

describe('a title', () => {
  it('is large if it is short', () => {
    expect(drawn('A kettle')).toEqual([
      { size: 92, text: 'A kettle' },
      { size: 34, text: 'Blog' },
    ])
  })
  it('breaks between words, and is smaller if it is long', () => {
    const lines = drawn(
      'Why your kettle keeps tripping the switch, and what you can do about it before Saturday',
    ).slice(0, -1)
    expect(new Set(lines.map((one) => one.size))).toEqual(new Set([76]))
    expect(lines.map((one) => one.text).join(' ')).toBe(
      'Why your kettle keeps tripping the switch, and what you can do about it before Saturday',
    )
  })
  it('ends with … if there is no room for all of it', () => {
    const lines = drawn('word '.repeat(200)).slice(0, -1)
    expect([lines.length, lines.at(-1)?.text.endsWith('…')]).toEqual([6, true])
  })
  it('of ideographs breaks anywhere', () => {
    expect(
      drawn('雨'.repeat(60))
        .slice(0, -1)
        .map((one) => one.text)
        .join(''),
    ).toBe('雨'.repeat(60))
  })
  it('of one long word is cut, and nothing is lost while there is room', () => {
    expect(
      drawn('x'.repeat(100))
        .slice(0, -1)
        .map((one) => one.text)
        .join(''),
    ).toBe('x'.repeat(100))
  })
  it('of any form is laid out with a bounded number of outlines', () => {
    let outlined = 0
    const counted: Outline = (text, size) => {
      outlined += text.length
      return outline(text, size)
    }
    for (const title of [
      'x'.repeat(400),
      '雨'.repeat(400),
      'a '.repeat(200),
      '-'.repeat(400),
      'é'.repeat(400),
    ])
      drawPreview({ title, blog: 'y'.repeat(400), colours: {} }, counted)
    // Letters in all five: about 400 letters, four sizes, and at most ten tries for each line.
    expect(outlined / 5).toBeLessThan(80_000)
  })
  it('of any characters stays within the image', () => {
    fc.assert(
      fc.property(
        fc.string({ unit: 'grapheme', maxLength: 600 }),
        fc.string({ maxLength: 300 }),
        (title, blog) => {
          for (const { size, text } of drawn(title, blog))
            expect([...text].length * size * 0.5).toBeLessThanOrEqual(PREVIEW_SIZE.width - 160)
        },
      ),
      { numRuns: 300 },
    )
  })
})
