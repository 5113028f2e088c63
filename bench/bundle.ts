/** Bundles the measured server: as it is, or with every trace of the recording of walks taken out. */
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { build, type Plugin } from 'esbuild'

/** Where recording is guarded: `if (walk) …`, `walk?.…`, `trace?.…`, `trace ? … : …`. */
const GUARDS = /\bif \(walk\b|(?<!\.)\b(?:walk|trace)\?\.|\btrace \?/g
/** As many as there are at least; fewer would mean that the pattern no longer finds them. */
const EXPECTED = 15

/** @returns the bundle's path */
export async function bundle(root: string, recording: boolean): Promise<string> {
  let found = 0
  const withoutRecording: Plugin = {
    name: 'without-recording',
    setup(one) {
      one.onLoad({ filter: /\/(server\/blog|core)\/.*\.ts$/ }, ({ path }) => ({
        loader: 'ts',
        contents:
          'const nobody = undefined as never\n' +
          readFileSync(path, 'utf8').replace(GUARDS, (guard) => {
            found++
            if (guard.startsWith('if')) return 'if (false && walk'
            return guard.endsWith('?.') ? 'nobody?.' : 'false ?'
          }),
      }))
    },
  }
  const outfile = join(root, `dist/bench/${recording ? 'as-it-is' : 'without-recording'}.mjs`)
  await build({
    entryPoints: [join(root, 'bench/server.ts')],
    outfile,
    bundle: true,
    platform: 'node',
    format: 'esm',
    target: 'node20',
    packages: 'external',
    minifySyntax: true,
    tsconfig: join(root, 'tsconfig.json'),
    plugins: recording ? [] : [withoutRecording],
    logLevel: 'error',
  })
  if (!recording && found < EXPECTED) throw new Error(`only ${found} guards of the recording were found`)
  return outfile
}
