/** Bundles the worker threads, each with all its modules: compiling and loading them one by one takes seconds. */
import { existsSync, readdirSync, renameSync, rmSync, statSync, utimesSync } from 'node:fs'
import { basename, join } from 'node:path'
import { build } from 'esbuild'
import { fingerprint } from './fingerprint.ts'

const SOURCES = ['server', 'core', 'contract', 'scripts/threads.ts', 'tsconfig.json', 'package-lock.json']
const THREADS = [
  'server/checks/check-worker.ts',
  'server/trials/trial-worker.ts',
  'server/jobs/texts-worker.ts',
]
/** How long bundles are kept that no start has used, in milliseconds. */
const UNUSED = 7 * 86_400_000

/** Packages are CommonJS modules in part. */
const REQUIRE = "import { createRequire } from 'node:module'; const require = createRequire(import.meta.url);"

/**
 * Bundles the threads, unless it was done for the same sources, and lets this process and its children use the bundles.
 * @see `server/jobs/thread.ts`, which loads the sources otherwise
 */
export async function bundleThreads(root: string): Promise<void> {
  const all = join(root, 'dist/threads')
  const folder = join(all, fingerprint(root, SOURCES).slice(0, 16))
  if (!existsSync(folder)) {
    const unfinished = `${folder}.${process.pid}`
    await build({
      entryPoints: THREADS.map((path) => ({
        in: join(root, path),
        out: basename(path).replace('-worker.ts', '-thread'),
      })),
      outdir: unfinished,
      outExtension: { '.js': '.mjs' },
      bundle: true,
      platform: 'node',
      format: 'esm',
      target: 'node20',
      // It has parts that are not JavaScript.
      external: ['sharp'],
      banner: { js: REQUIRE },
      tsconfig: join(root, 'tsconfig.json'),
      logLevel: 'error',
    })
    // Another process may have been faster.
    if (existsSync(folder)) rmSync(unfinished, { recursive: true })
    else renameSync(unfinished, folder)
  }
  const now = new Date()
  utimesSync(folder, now, now)
  for (const name of readdirSync(all)) {
    const one = join(all, name)
    if (now.getTime() - statSync(one).mtimeMs > UNUSED) rmSync(one, { recursive: true })
  }
  process.env['ESQUINA_THREADS'] = folder
}
