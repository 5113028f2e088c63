// Routes that begin like the one above stand below it.
import { expect, it } from 'vitest'
import { nesting } from './nesting.ts'

it.each<[string[], boolean[][]]>([
  [
    ['/', '/posts', '/posts/:slug', '/posts/archive', '/about'],
    [[], [], [true], [false], []],
  ],
  [
    ['/posts', '/posts/:slug', '/posts/:slug/comments', '/posts/x'],
    [[], [true], [true, false], [false]],
  ],
  [
    ['/posts', '/posts/:slug', '/posts/:slug/comments', '/about'],
    [[], [false], [false, false], []],
  ],
  [
    ['/posts', '/about', '/posts/:slug'],
    [[], [], []],
  ],
  [
    ['/a', '/ab', '/a/b'],
    [[], [], []],
  ],
])('%j: %j', (paths, lines) => {
  const nested = nesting(paths)
  expect(nested.map((one) => one.continues)).toEqual(lines)
  expect(nested.map((one) => one.depth)).toEqual(lines.map((one) => one.length))
})
