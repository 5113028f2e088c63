/** Writes media/*.svg of the demo: one drawing for each `image:` that a post names, as `MOTIF-CATEGORY-VARIANT.svg`. */
import { mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { drawing } from './motifs.ts'

const folder = fileURLToPath(new URL('../cobble-lane', import.meta.url))
const posts = join(folder, 'content/posts')
const media = join(folder, 'media')
const names = new Set(
  readdirSync(posts)
    .flatMap((file) => [...readFileSync(join(posts, file), 'utf8').matchAll(/\b([a-z]+-[a-z-]+-\d\.svg)/g)])
    .map((found) => found[1] ?? ''),
)
rmSync(media, { recursive: true, force: true })
mkdirSync(media)
for (const name of names) {
  const [, motif = '', category = '', variant = ''] = /^([a-z]+)-([a-z-]+)-(\d)\.svg$/.exec(name) ?? []
  writeFileSync(join(media, name), drawing(motif, category, Number(variant)))
}
writeFileSync(join(media, 'sign.svg'), drawing('cup', 'open-days', 0))
