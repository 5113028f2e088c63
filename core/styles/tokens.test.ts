// Design tokens are found, changed and compared. Contrast: the examples of the W3C's techniques G18 and of WCAG 2.2.
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { changeToken, contrastsOf, ENOUGH, lowestContrast, tokensOf } from './tokens.ts'

const css = readFileSync(join(import.meta.dirname, '../../demo/cobble-lane/assets/blog.css'), 'utf8')
const valuesOf = (text: string) =>
  tokensOf(text).map(({ name, light, dark }) => [name, light?.value, dark?.value])

describe('tokens', () => {
  it('are the custom properties of :root, with the values of both schemes and their lines', () => {
    const ink = tokensOf(css).find((one) => one.name === '--ink')
    expect([ink?.light?.colour, ink?.dark?.colour]).toEqual(['#23262d', '#e9e5da'])
    expect(css.split('\n')[(ink?.dark?.line ?? 0) - 1]).toContain('--ink: #e9e5da')
    expect(tokensOf(css).find((one) => one.name === '--sans')).toMatchObject({
      light: { value: 'Overpass, Kosugi, system-ui, sans-serif', colour: null },
      dark: null,
    })
  })
  it('are read as browsers read them', () => {
    expect(
      valuesOf(`
        html, body { --a: 1px } .x { --b: red }
        :root { --c:RED; --c: rgb(0 0 0); --d: {a:b}; --e: var(--c) /* why */; broken
        ; --f: #00000080 }
        @media (min-width: 40em) { :root { --c: blue } }
        @media (prefers-color-scheme: dark) { :root { --c: white; --only: 1 } }
        @media print { :root { --c: black } }`),
    ).toEqual([
      ['--a', '1px', undefined],
      ['--c', 'rgb(0 0 0)', 'white'],
      ['--d', '{a:b}', undefined],
      ['--e', 'var(--c) /* why */', undefined],
      ['--f', '#00000080', undefined],
      ['--only', undefined, '1'],
    ])
    expect(tokensOf(':root { --f: #00000080 }')[0]?.light?.colour).toBeNull()
  })
  it('are changed where they are declared, and nothing else is', () => {
    const changed = changeToken(css, '--ink', 'dark', '#ffffff') ?? ''
    expect(changed.replace('--ink: #ffffff', '--ink: #e9e5da')).toBe(css)
    expect(changeToken(css, '--sans', 'dark', 'serif')).toBeUndefined()
    expect(changeToken(css, '--nothing', 'light', '#fff')).toBeUndefined()
  })
  it.each(['red; --x: 1', 'red }', '/*', 'red } a { color: blue', '', '"'])(
    'are not changed to what would end the declaration: %s',
    (value) => {
      expect(changeToken(css, '--ink', 'light', value)).toBeUndefined()
    },
  )
})

describe('contrast', () => {
  const of = (text: string, ground: string) =>
    contrastsOf(`:root { --t: ${text}; --g: ${ground} } p { color: var(--t); background: var(--g) }`)[0]
      ?.light
  it.each([
    // WCAG 2.2: from 1 to 21; G18: #767676 on white is the lightest grey that passes with 4.5:1.
    ['#000', '#fff', 21],
    ['white', '#ffffff', 1],
    ['#767676', '#fff', 4.54],
    ['#777777', '#fff', 4.47],
    ['rgb(0, 0, 255)', 'white', 8.59],
  ])('of %s on %s is %f', (text, ground, ratio) => {
    expect(of(text, ground)).toBe(ratio)
  })
  it('is computed for tokens of text on tokens of grounds, in both schemes', () => {
    const found = contrastsOf(css)
    expect(found.length).toBeGreaterThan(4)
    const muted = found.find((one) => one.text === '--muted' && one.ground === '--ground')
    expect([muted?.light, muted?.dark]).toEqual([of('#5f656e', '#fbfaf6'), of('#a9adb4', '#1d2025')])
    // A line is neither, and the colour of a rule with its own background stands on that.
    expect(found.some((one) => one.text === '--ground' && one.ground === '--panel')).toBe(false)
    expect(found.some((one) => one.text === '--ground' && one.ground === '--ink')).toBe(true)
    expect(found.some((one) => one.text === '--line' || one.ground === '--line')).toBe(false)
    expect(found.every((one) => one.text !== one.ground)).toBe(true)
    // axe-core finds enough contrast on every page of the demo, so no pair may seem to have less.
    expect(lowestContrast(css)).toBeGreaterThan(ENOUGH)
  })
  it('has a lowest value, which is that of the worst scheme', () => {
    const own =
      ':root { --a: #767676; --b: #fff } @media (prefers-color-scheme: dark) { :root { --a: #fff; --b: #777 } }'
    expect(lowestContrast(`${own} body { color: var(--a); background: var(--b) }`)).toBe(4.47)
    expect(lowestContrast('p { color: red }')).toBeUndefined()
  })
  it('is unknown for colours that one can see through', () => {
    expect(of('#0008', '#fff')).toBeUndefined()
  })
})
