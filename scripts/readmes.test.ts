// Every folder explains itself, and what its README names exists.
import { existsSync, readdirSync, readFileSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { FOLDERS } from './architecture/imports.mjs'
import { root } from './dependencies.mjs'

const TOPS = ['core', 'contract', 'server', 'web', 'demo', 'e2e', 'bench', 'scripts']

const folders = [
  ...new Set(
    TOPS.flatMap((top) =>
      readdirSync(join(root, top), { recursive: true, encoding: 'utf8' })
        .filter((file) => /\.(ts|tsx|mjs)$/.test(file))
        .map((file) => dirname(join(top, file))),
    ),
  ),
].sort()

const readme = (folder: string) => readFileSync(join(root, folder, 'README.md'), 'utf8')

describe.each(folders)('%s/README.md', (folder) => {
  it('says what the folder holds', () => {
    const [title, , text = ''] = readme(folder).split('\n')
    expect(title).toBe(`# ${folder}`)
    expect(text.length).toBeGreaterThan(30)
  })

  it('names only files and folders that exist', () => {
    const names = [...readme(folder).matchAll(/`([\w./-]+\.(?:tsx?|mjs|css|md|yaml)|[\w./-]+\/)`/g)].map(
      ([, name = '']) => name,
    )
    for (const name of names) {
      const places = [folder, join(folder, '..'), 'docs', '.'].map((place) => join(root, place, name))
      const isDocument = /\.yaml$/.test(name)
      expect(isDocument || places.some((place) => existsSync(place)), name).toBe(true)
    }
  })
})

it('folders say what they may import, as scripts/architecture/imports.mjs has it', () => {
  for (const [key, allowed] of Object.entries(FOLDERS as Record<string, string[]>)) {
    const folder = key.replace(/\/$/, '')
    const others = allowed.map((one) => one.replace(/\/$/, '')).filter((one) => one !== folder)
    const line =
      others.length === 0 ? 'nothing outside this folder' : others.map((one) => `\`${one}\``).join(', ')
    if (existsSync(join(root, folder, 'README.md')))
      expect(readme(folder), folder).toContain(`May import: ${line}.`)
  }
})
