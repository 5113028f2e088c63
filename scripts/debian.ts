/** Installs Debian packages that the product or its tests need, where that is allowed. */
import { spawnSync } from 'node:child_process'
import { existsSync, mkdirSync, writeFileSync } from 'node:fs'

/** How to run a command with the rights to install, or undefined where nobody may. */
function administrator(): string[] | undefined {
  if (process.getuid?.() === 0) return []
  return spawnSync('sudo', ['-n', 'true'], { stdio: 'ignore' }).status === 0 ? ['sudo', '-n'] : undefined
}

/**
 * Installs packages.
 * @returns undefined when it worked, else one line that says what to run
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

/** Debian makes a cluster of its own on installing the server; ours is private, so that one is not wanted. */
export function preventDebianCluster(): void {
  const folder = '/etc/postgresql-common'
  const file = `${folder}/createcluster.conf`
  if (process.getuid?.() !== 0 || existsSync(file)) return
  mkdirSync(folder, { recursive: true })
  writeFileSync(file, 'create_main_cluster = false\n')
}
