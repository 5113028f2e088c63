import { expect, it } from 'vitest'
import { hiddenClasses } from './hidden-classes.ts'

const hidden = (css: string) => [...hiddenClasses(new Map([['a.css', css]])).keys()]

// Common practice: ways to take an element out of sight, some of them for screen readers only.
it.each([
  '.a { display: none }',
  '.b .a { position: absolute; left: -9999px }',
  '.a:not(:focus) { clip-path: inset(50%) }',
  '.a { height: 1px; overflow: hidden }',
  'p.a { transform: scale(0) }',
])('%s hides the class', (css) => expect(hidden(css)).toEqual(['a']))

it.each(['.a { color: red; left: -4px }', '.a .b p { display: none }', '.a { opacity: .5; height: 100px }'])(
  '%s does not',
  (css) => expect(hidden(css)).toEqual([]),
)

it('a class that removes its elements takes them from the keyboard, too', () => {
  const found = hiddenClasses(
    new Map([['a.css', '.a { left: -999px } .b { left: -999px } .b { display: none }']]),
  )
  expect([...found]).toEqual([
    ['a', { isRemoved: false }],
    ['b', { isRemoved: true }],
  ])
})
