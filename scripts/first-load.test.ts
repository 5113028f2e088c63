// The size of the workbench's first load: every script that the page and the Walk screen import.
import { existsSync, readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { gzipSync } from 'node:zlib'
import { expect, it } from 'vitest'
import { root } from './dependencies.mjs'

const built = join(root, 'dist/web')

/** A complete run of the tests builds the pages first. */
it.runIf(existsSync(join(built, 'index.html')))('is at most 380 kB of compressed scripts', () => {
  const seen = new Map<string, number>()
  const visit = (file: string) => {
    if (seen.has(file)) return
    const bytes = readFileSync(join(built, 'assets', file))
    seen.set(file, gzipSync(bytes).length)
    for (const [, other = ''] of bytes.toString().matchAll(/(?:import|from)\s*"\.\/([^"]+\.js)"/g))
      visit(other)
  }
  const html = readFileSync(join(built, 'index.html'), 'utf8')
  for (const [, file = ''] of html.matchAll(/assets\/([^"]+\.js)/g)) visit(file)
  const screen = readdirSync(join(built, 'assets')).find((file) => /^walk-screen.*\.js$/.test(file))
  if (screen !== undefined) visit(screen)
  expect(seen.size).toBeGreaterThan(5)
  expect([...seen.values()].reduce((sum, size) => sum + size, 0)).toBeLessThanOrEqual(380_000)
})
