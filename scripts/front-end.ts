/** Builds the workbench's pages if any of their sources has changed. */
import { existsSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { fingerprint } from './fingerprint.ts'

const SOURCES = ['web', 'core', 'contract', 'vite.config.ts', 'package-lock.json']

/** @returns true if it was built */
export async function buildIfStale(root: string): Promise<boolean> {
  const marker = join(root, 'dist/web/.built-from')
  const wanted = fingerprint(root, SOURCES)
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
