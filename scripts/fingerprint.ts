/** Tells whether sources have changed since something was built from them. */
import { createHash } from 'node:crypto'
import { readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'

/** @param sources files, and folders with everything below them except tests */
export function fingerprint(root: string, sources: readonly string[]): string {
  const hash = createHash('sha256')
  for (const source of sources) {
    const path = join(root, source)
    const files = /\.\w+$/.test(source)
      ? [path]
      : readdirSync(path, { recursive: true, withFileTypes: true })
          .filter((entry) => entry.isFile() && !entry.name.endsWith('.test.ts'))
          .map((entry) => join(entry.parentPath, entry.name))
          .sort()
    for (const file of files) hash.update(file.slice(root.length)).update(readFileSync(file))
  }
  return hash.digest('hex')
}
