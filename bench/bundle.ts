/** Bundles what is measured. The server is bundled as it is, or without the code that records walks. */
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { build, type Plugin } from 'esbuild'

/** Calls of the tracer on the request path, and the question whether it records. */
const TRACED = /(?<![\w.#])(?:(?:this\.#)?page\.)?tracer\.(isRecording\b|\w+\()/g
/** The number of places is at least this. With fewer, the pattern no longer finds them. */
const EXPECTED = 25

/** Bundles a measurement as `npm start` bundles the server. @returns the bundle's path */
export const bundled = (root: string, name: string): Promise<string> => built(root, name, name, [])

/** Bundles the measured server. @returns the bundle's path */
export async function bundle(root: string, recording: boolean): Promise<string> {
  let found = 0
  const withoutRecording: Plugin = {
    name: 'without-recording',
    setup(one) {
      one.onLoad({ filter: /\/(server\/reader|core\/templates)\/.*\.ts$/ }, ({ path }) => ({
        loader: 'ts',
        contents:
          'const removed = undefined as never\n' +
          readFileSync(path, 'utf8').replace(TRACED, (_, what: string) => {
            found++
            return what === 'isRecording' ? 'false' : 'false && removed('
          }),
      }))
    },
  }
  const name = recording ? 'complete' : 'without-recording'
  const outfile = await built(root, 'server', name, recording ? [] : [withoutRecording])
  if (!recording && found < EXPECTED) throw new Error(`Only ${found} calls of the tracer were found.`)
  return outfile
}

async function built(root: string, entry: string, name: string, plugins: Plugin[]): Promise<string> {
  const outfile = join(root, `dist/bench/${name}.mjs`)
  await build({
    entryPoints: [join(root, `bench/${entry}.ts`)],
    outfile,
    bundle: true,
    platform: 'node',
    format: 'esm',
    target: 'node20',
    packages: 'external',
    minifySyntax: true,
    tsconfig: join(root, 'tsconfig.json'),
    plugins,
    logLevel: 'error',
  })
  return outfile
}
