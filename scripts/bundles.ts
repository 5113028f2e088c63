/**
 * Bundles the server, its worker threads and the processes that serve readers, each with all its modules. Compiling and loading them one by one takes
 * seconds, and code that is compiled while it is loaded runs a fifth slower.
 */
import { existsSync, readdirSync, renameSync, rmSync, statSync, utimesSync } from 'node:fs'
import { join } from 'node:path'
import { pathToFileURL } from 'node:url'
import { build } from 'esbuild'
import { fingerprint } from './fingerprint.ts'

const SOURCES = ['server', 'core', 'contract', 'scripts/bundles.ts', 'tsconfig.json', 'package-lock.json']
const ENTRIES = {
  start: 'server/start.ts',
  'reader-process': 'server/processes/reader-process.ts',
  'check-thread': 'server/checks/check-worker.ts',
  'trial-thread': 'server/trials/trial-worker.ts',
  'preview-thread': 'server/previews/preview-worker.ts',
  'texts-thread': 'server/jobs/texts-worker.ts',
  'preview-image-thread': 'server/jobs/preview-image-worker.ts',
}
/** How long bundles are kept that no start has used, in milliseconds. */
const UNUSED = 7 * 86_400_000

/** Packages are CommonJS modules in part. */
const REQUIRE =
  "import { createRequire as requireFrom } from 'node:module'; const require = requireFrom(import.meta.url);"

/**
 * Bundles the server, unless it was done for the same sources. Threads that this process and its children start are loaded
 * from the bundles (`server/jobs/thread.ts`).
 * @returns the folder of the bundles
 */
export async function bundleServer(root: string): Promise<string> {
  const all = join(root, 'dist/server')
  const folder = join(all, fingerprint(root, SOURCES).slice(0, 16))
  if (!existsSync(folder)) {
    const unfinished = `${folder}.${process.pid}`
    await build({
      entryPoints: Object.entries(ENTRIES).map(([out, path]) => ({ in: join(root, path), out })),
      outdir: unfinished,
      outExtension: { '.js': '.mjs' },
      bundle: true,
      platform: 'node',
      format: 'esm',
      target: 'node20',
      // They have files that are not JavaScript modules, or are read as files.
      external: ['sharp', 'css-tree', 'playwright-core', 'axe-core'],
      banner: { js: REQUIRE },
      tsconfig: join(root, 'tsconfig.json'),
      logLevel: 'error',
    })
    try {
      renameSync(unfinished, folder)
    } catch (error) {
      rmSync(unfinished, { recursive: true })
      // Another process may have been faster.
      if (!existsSync(folder)) throw error
    }
  }
  const now = new Date()
  utimesSync(folder, now, now)
  for (const name of readdirSync(all)) {
    const one = join(all, name)
    if (now.getTime() - statSync(one).mtimeMs > UNUSED) rmSync(one, { recursive: true })
  }
  process.env['ESQUINA_BUNDLES'] = folder
  return folder
}

/** Returns the server as `npm start` runs it. */
export async function bundledServer(root: string): Promise<typeof import('../server/start.ts')> {
  const url = pathToFileURL(join(await bundleServer(root), 'start.mjs')).href
  return (await import(url)) as typeof import('../server/start.ts')
}
