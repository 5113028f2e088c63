/** Builds the workbench's pages if any of their sources has changed. */
import { createHash } from 'node:crypto'
import { existsSync, readdirSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'

const SOURCES = ['web', 'core', 'contract', 'vite.config.ts', 'package-lock.json']

function fingerprint(root: string): string {
  const hash = createHash('sha256')
  for (const source of SOURCES) {
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

/** @returns true if it was built */
export async function buildIfStale(root: string): Promise<boolean> {
  const marker = join(root, 'dist/web/.built-from')
  const wanted = fingerprint(root)
  if (existsSync(marker) && readFileSync(marker, 'utf8') === wanted) return false
  const { build } = await import('vite')
  // Otherwise a run of tests would bundle React for development.
  const environment = process.env['NODE_ENV']
  process.env['NODE_ENV'] = 'production'
  await build({ root: join(root, 'web'), configFile: join(root, 'vite.config.ts'), logLevel: 'error' })
  if (environment === undefined) delete process.env['NODE_ENV']
  else process.env['NODE_ENV'] = environment
  writeFileSync(marker, wanted)
  return true
}
