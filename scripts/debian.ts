/** Installs the Debian packages that the product or its tests need, if the user may install packages. */
import { spawnSync } from 'node:child_process'
import { existsSync, mkdirSync, writeFileSync } from 'node:fs'

/** Returns the prefix of a command that may install packages, or undefined if the user may not. */
function administrator(): string[] | undefined {
  if (process.getuid?.() === 0) return []
  return spawnSync('sudo', ['-n', 'true'], { stdio: 'ignore' }).status === 0 ? ['sudo', '-n'] : undefined
}

/**
 * Installs packages.
 * @returns undefined on success, otherwise a line that says what to run
 */
export function installPackages(packages: readonly string[], why: string): string | undefined {
  const advice = `${why} Run: sudo apt-get install -y --no-install-recommends ${packages.join(' ')}`
  const prefix = administrator()
  if (prefix === undefined || !existsSync('/usr/bin/apt-get')) return advice
  console.log(`Installing ${packages.join(' and ')} from Debian's packages …`)
  const apt = (...words: string[]) => {
    const [command = 'apt-get', ...rest] = [...prefix, 'apt-get', ...words]
    return (
      spawnSync(command, rest, {
        stdio: ['ignore', 'ignore', 'inherit'],
        env: { ...process.env, DEBIAN_FRONTEND: 'noninteractive' },
      }).status === 0
    )
  }
  const install = () =>
    apt(
      'install',
      '-y',
      '-q',
      '--no-install-recommends',
      '-o',
      'Dpkg::Options::=--force-confold',
      ...packages,
    )
  if (apt('update', '-q') && install()) return undefined
  return advice
}

/** Prevents Debian from creating a cluster when the server is installed: ours is private. */
export function preventDebianCluster(): void {
  const folder = '/etc/postgresql-common'
  const file = `${folder}/createcluster.conf`
  if (process.getuid?.() !== 0 || existsSync(file)) return
  mkdirSync(folder, { recursive: true })
  writeFileSync(file, 'create_main_cluster = false\n')
}
