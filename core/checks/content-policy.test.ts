// What a content security policy blocks. The cases follow CSP Level 3, 6.7 (matching) and 8 (directives).
import { describe, expect, it } from 'vitest'
import { blocksInline, blocksResource } from './content-policy.ts'

const PAGES =
  "default-src 'none'; img-src 'self' data: https:; style-src 'self'; script-src 'self' https://talk.example"

describe('a policy', () => {
  it.each<[string, string, boolean, boolean]>([
    ['image', '/media/a.svg', true, false],
    ['image', 'https://a.example/b.png', false, false],
    ['image', 'http://a.example/b.png', false, true],
    ['image', 'data:image/png;base64,AA', false, false],
    ['image', '//a.example/b.png', false, false],
    ['stylesheet', '/assets/blog.css', true, false],
    ['stylesheet', 'https://cdn.example/a.css', false, true],
    ['script', 'https://talk.example/embed.js', false, false],
    ['script', 'https://talk.example.evil.example/embed.js', false, true],
    ['frame', '/posts', true, true],
    ['video', '/media/a.mp4', true, true],
    ['preload', 'https://a.example/b', false, false],
  ])('%s %s', (kind, src, isOwn, isBlocked) => {
    expect(blocksResource(PAGES, kind, src, isOwn)).toBe(isBlocked)
  })
  it('blocks inline styles and scripts, unless it has a hash or allows them', () => {
    for (const kind of [
      'style attribute',
      'style element',
      'script attribute',
      'script element',
      'script address',
    ] as const)
      expect(blocksInline(PAGES, kind)).toBe(true)
    expect(blocksInline("default-src 'none'; style-src 'sha256-AA='", 'style element')).toBe(false)
    expect(blocksInline("default-src 'none'; style-src 'sha256-AA='", 'style attribute')).toBe(true)
    expect(blocksInline("style-src 'unsafe-inline'", 'style attribute')).toBe(false)
  })
  it('that says nothing blocks nothing', () =>
    expect(blocksResource('', 'script', 'https://a.example/b.js', false)).toBe(false))
})
