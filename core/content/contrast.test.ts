// Contrast of colours, against published values.
import { describe, expect, it } from 'vitest'
import { contrast, lowestContrast } from './contrast.ts'

describe('the contrast ratio', () => {
  // WCAG 2.2, Understanding Success Criterion 1.4.3: black on white is 21:1; #767676 on white is the lightest grey with
  // 4.5:1, and #777777 has 4.48:1. The other values are from memory of WebAIM's checker.
  it.each<[string, string, number]>([
    ['#000000', '#ffffff', 21],
    ['#ffffff', '#fff', 1],
    ['#767676', '#ffffff', 4.54],
    ['#777777', '#ffffff', 4.48],
    ['#0000ff', '#ffffff', 8.59],
    ['#ff0000', '#ffffff', 4],
  ])('of %s and %s is %d', (one, other, ratio) => {
    expect(contrast(one, other)).toBeCloseTo(ratio, 2)
    expect(contrast(other, one)).toBeCloseTo(ratio, 2)
  })
  it('is not computed for other notations', () => expect(contrast('red', '#fff')).toBeUndefined())
})

describe('the lowest contrast of a stylesheet', () => {
  it('is that of either scheme', () => {
    const css =
      ':root { --ground: #ffffff; --ink: #000000; }\n@media (prefers-color-scheme: dark) {\n :root { --ground: #000000; --ink: #777777; } }'
    expect(lowestContrast(css)).toBeCloseTo(contrast('#000', '#777') ?? 0)
  })
  it('is unknown without tokens', () => expect(lowestContrast('body { color: red }')).toBeUndefined())
})
