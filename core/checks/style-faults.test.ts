// What stylesheets have that browsers ignore, and styles that hide the focus.
import { describe, expect, it } from 'vitest'
import { hiddenFocus, ignoredDeclarations } from './style-faults.ts'

const ignored = (css: string, js = '') =>
  ignoredDeclarations(
    new Map([
      ['a.css', css],
      ['a.js', js],
    ]),
  ).map(({ line, actual, expected }) => [line, actual, expected])

describe('a declaration is ignored', () => {
  it.each<[string, string, string | null]>([
    ['a { colour: red }', 'colour', 'color'],
    ['a { text-underline-ofset: 1px }', 'text-underline-ofset', 'text-underline-offset'],
    ['@media print { a { dispaly: none } }', 'dispaly', 'display'],
    ['a { box-sizing: border }', 'border', 'border-box'],
    ['a { color: var(--x) }', 'var(--x)', null],
    ['b { --ink: red } a { color: var(--inc) }', 'var(--inc)', 'var(--ink)'],
    ['a { margin: calc(var(--x) * 2) }', 'var(--x)', null],
  ])('%s: %s, for %s', (css, actual, expected) => expect(ignored(css)).toEqual([[1, actual, expected]]))

  it('unless a variable has a fallback, or is set by a script, a property rule or another stylesheet', () => {
    expect(ignored('a { color: var(--x, red) }')).toEqual([])
    expect(ignored('a { color: var(--x) }', "style.setProperty('--x', 'red')")).toEqual([])
    expect(ignored('@property --x { syntax: "*"; inherits: false } a { color: var(--x) }')).toEqual([])
    const two = new Map([
      ['a.css', 'a { color: var(--x) }'],
      ['b.css', ':root { --x: red }'],
    ])
    expect(ignoredDeclarations(two)).toEqual([])
  })

  // Properties that are newer than a parser, prefixed, or meant for old browsers.
  it.each([
    'a { some-future-property: 1 }',
    'a { -webkit-line-clamp: 2; -moz-appearance: none }',
    'a { *zoom: 1; _height: 1px }',
    'a { width: fit-content(10px); color: color(display-p3 1 0 0) }',
    '@font-face { font-family: X; src: url(/x.woff2); ascent-override: 90% }',
    '@page { size: A4 }',
    'a { & b { color: red } }',
    'a { color: RED; DISPLAY: Block }',
  ])('but not %s', (css) => expect(ignored(css)).toEqual([]))
})

describe('the focus is hidden', () => {
  const hidden = (css: string) => hiddenFocus(new Map([['a.css', css]])).map((one) => one.line)
  it.each([
    'a:focus { outline: none }',
    'a:focus-visible { outline: 0; outline-offset: 2px; border-radius: 2px }',
    '* { outline: none }',
    'a { outline: none } button:focus { outline: 1px solid }',
    '.menu a:focus { outline: none !important }',
  ])('by %s', (css) => expect(hidden(css)).toEqual([1]))
  it.each([
    'a:focus:not(:focus-visible) { outline: none }',
    'a:focus { outline: none; box-shadow: 0 0 2px red }',
    'a:focus { outline: none } a:focus-visible { outline: 2px solid }',
    'a { outline: none } .menu a:focus-visible { background: yellow }',
    '* { outline: none } :focus-visible { outline: 2px solid }',
    'a { outline: 2px solid }',
  ])('but not by %s', (css) => expect(hidden(css)).toEqual([]))
})
