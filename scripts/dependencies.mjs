// Installs the npm dependencies if they are missing or differ from package-lock.json. Runs before anything is installed.
import { spawnSync } from 'node:child_process'
import { createHash } from 'node:crypto'
import { existsSync, readFileSync, writeFileSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { fileURLToPath } from 'node:url'

export const root = dirname(dirname(fileURLToPath(import.meta.url)))

export function ensureDependencies() {
  const [major = 0, minor = 0] = process.versions.node.split('.').map(Number)
  if (major < 20 || (major === 20 && minor < 19)) {
    console.error(`Esquina needs Node.js 20.19 or newer; this is ${process.versions.node}.`)
    process.exit(1)
  }
  const lock = createHash('sha256')
    .update(readFileSync(join(root, 'package-lock.json')))
    .digest('hex')
  const marker = join(root, 'node_modules', '.installed-from')
  if (existsSync(marker) && readFileSync(marker, 'utf8') === lock) return
  console.log('Installing npm dependencies …')
  const { status } = spawnSync('npm', ['ci', '--no-progress', '--loglevel=error'], {
    cwd: root,
    stdio: 'inherit',
    shell: process.platform === 'win32',
  })
  if (status !== 0) {
    console.error('npm ci failed. The reason is above.')
    process.exit(1)
  }
  writeFileSync(marker, lock)
}

/** Makes TypeScript files importable from here on. */
export async function allowTypeScript() {
  process.chdir(root)
  const { register } = await import('tsx/esm/api')
  register({ tsconfig: join(root, 'tsconfig.json') })
}
