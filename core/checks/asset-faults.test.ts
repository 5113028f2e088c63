// What scripts connect to, and comments of stylesheets that swallow styles.
import { describe, expect, it } from 'vitest'
import { assetFaults, connectionsToOthers } from './asset-faults.ts'

describe('a script', () => {
  const others = (js: string) =>
    connectionsToOthers(new Map([['a.js', js]]), 'https://blog.example').map((one) => [
      one.line,
      one.call,
      one.address,
    ])

  it.each<[string, [number, string, string][]]>([
    ["fetch('https://api.example/a')", [[1, 'fetch', 'https://api.example/a']]],
    ['\nnew WebSocket(`wss://live.example`)', [[2, 'WebSocket', 'wss://live.example']]],
    ["request.open('POST', 'https://api.example/a')", [[1, 'open', 'https://api.example/a']]],
    ["fetch('https://blog.example.elsewhere/')", [[1, 'fetch', 'https://blog.example.elsewhere/']]],
  ])('connects to another site with %s', (js, found) => expect(others(js)).toEqual(found))

  it.each([
    "fetch('/posts')",
    "fetch('https://blog.example/posts')",
    // These show a page.
    "open('https://elsewhere.example')",
    "window.open('https://elsewhere.example', '_blank')",
    '// see https://elsewhere.example, and fetch(it)',
  ])('does not with %s', (js) => expect(others(js)).toEqual([]))
})

describe('a comment in a stylesheet', () => {
  const faults = (css: string) => assetFaults('a.css', css).map((one) => `${one.line} ${one.message}`)

  it('is not closed if another one begins in it after styles', () =>
    expect(faults('a { color: red }\n/* one\nb { color: red }\n/* two */\n')).toEqual([
      '2 The comment that begins here is not closed before the next one.',
    ]))

  it.each([
    '/* see /posts/* { } */ a { color: red }',
    '/* one */\n/* two */\na { color: red }',
    '/* a\n /* b */',
  ])('is closed in %j', (css) => expect(faults(css)).toEqual([]))
})
