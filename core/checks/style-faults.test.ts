// What stylesheets have that browsers ignore, and styles that hide the focus.
import { describe, expect, it } from 'vitest'
import { hiddenFocus, hiddenText, ignoredDeclarations, unknownFeatures } from './style-faults.ts'

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
    ['a { font-size: 18 }', 'font-size: 18', 'font-size: 18px'],
    ['a { color: var(--x) }', 'var(--x)', null],
    [':root { --line: #ccc } a { font: 700 1rem/1.2 var(--line) }', 'font: 700 1rem/1.2 var(--line)', null],
    [':root { --a: var(--b); --b: 4px } a { color: var(--a) }', 'color: var(--a)', null],
    ['a { display: blok }', 'blok', 'block'],
    ['a { justify-content: space-betwen }', 'space-betwen', 'space-between'],
    ['ul { list-style: nones }', 'nones', 'none'],
    ['ul { list-style: sqare inside }', 'sqare', 'square'],
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
    ':root { --s: "A", serif; --w: 2px; --c: light-dark(red, blue) } a { font: 1rem var(--s); border: var(--w) solid var(--c); color: var(--x, var(--c)) }',
    ':root { --gap: 4px 8px } a { margin: 0 var(--gap); padding: calc(1px + var(--n, 2px)) }',
    'a { display: grid-lanes; position: -webkit-sticky; text-wrap: pretty; will-change: top }',
    'ul { list-style: "–" inside; list-style-type: Lower-Roman } ol { list-style: var(--x, none) url(/a.svg) }',
    '@counter-style thumbs { symbols: "👍" } ul { list-style: thumbs }',
    'a { color: RED; DISPLAY: Block }',
    'a { margin: 0; line-height: 1.5; flex: 1; opacity: .5; z-index: 3; width: calc(1px * 2) }',
  ])('but not %s', (css) => expect(ignored(css)).toEqual([]))
})

describe('a feature of a media query', () => {
  const unknown = (css: string) => unknownFeatures(new Map([['a.css', css]])).map((one) => one.expected)
  it.each([
    ['@media (prefers-colour-scheme: dark) { a { color: red } }', 'prefers-color-scheme'],
    ['@media (max-widht: 40rem) { a { color: red } }', 'max-width'],
    ['@media screen and (orientaton: portrait) { a { color: red } }', 'orientation'],
  ])('of %s is misspelt', (css, expected) => expect(unknown(css)).toEqual([expected]))

  // Media Queries Level 5, and container queries.
  it.each([
    '@media (min-width: 20rem) and (prefers-reduced-motion: reduce) { a { color: red } }',
    '@media (width >= 40rem) { a { color: red } }',
    '@media (-webkit-min-device-pixel-ratio: 2) { a { color: red } }',
    '@media (some-future-feature) { a { color: red } }',
    '@container (inline-size > 30rem) { a { color: red } }',
  ])('is right or unknown in %s', (css) => expect(unknown(css)).toEqual([]))
})

describe('text is hidden or too small', () => {
  const hidden = (css: string) => hiddenText(new Map([['a.css', css]])).map((one) => one.actual)
  it.each([
    ['p { font-size: 2px }', 'font-size: 2px'],
    ['a { font: 600 .4rem/1.2 sans-serif }', 'font: 600 .4rem/1.2 sans-serif'],
    ['a { font-size: 6pt }', 'font-size: 6pt'],
    ['.x, main { display: none }', 'display: none'],
    ['@media (max-width: 40rem) { h1 { visibility: hidden } }', 'visibility: hidden'],
  ])('by %s', (css, actual) => expect(hidden(css)).toEqual([actual]))

  it.each([
    'p { font-size: 9px } a { font: 600 .7em/1.2 serif } b { font-size: 80% } i { font-size: 0 }',
    '@media print { main { display: none } p { font-size: 6pt } }',
    'nav, main nav, .main, main > .x, main.empty { display: none }',
    'a { font-size: clamp(1rem, 2vw, 3rem); border: 1px solid }',
  ])('but not by %s', (css) => expect(hidden(css)).toEqual([]))
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
