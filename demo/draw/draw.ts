/**
 * Writes the images of the demo: one drawing for each `image:` that a post names, as `MOTIF-CATEGORY-VARIANT.svg`, and a
 * picture with grain like a photograph, `shelf.jpg`.
 */
import { mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import sharp from 'sharp'
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

/** What stands on the shelf, in rows. */
const SHELF = [
  ['kettle', 'electrical'],
  ['lamp', 'electrical'],
  ['bear', 'clocks-and-toys'],
  ['radio', 'clocks-and-toys'],
  ['chair', 'woodwork'],
  ['wheel', 'bicycles'],
] as const
const [WIDTH, HEIGHT, COLUMNS] = [1600, 900, 3]

const things = await Promise.all(
  SHELF.map(async ([motif, category], index) => ({
    input: await sharp(Buffer.from(drawing(motif, category, 0)), { density: 200 })
      .resize(Math.ceil(WIDTH / COLUMNS), HEIGHT / 2, { fit: 'cover' })
      .png()
      .toBuffer(),
    left: Math.floor(((index % COLUMNS) * WIDTH) / COLUMNS),
    top: Math.floor(index / COLUMNS) * (HEIGHT / 2),
  })),
)
/** Grain: the same numbers each time, so that the file changes only with the drawing (a linear congruential generator). */
const grain = Buffer.alloc(WIDTH * HEIGHT)
let state = 7
for (let index = 0; index < grain.length; index++) {
  state = (Math.imul(state, 1_664_525) + 1_013_904_223) >>> 0
  grain[index] = 122 + ((state >>> 24) % 13)
}
const shelf = await sharp({ create: { width: WIDTH, height: HEIGHT, channels: 3, background: '#f4efe6' } })
  .composite([
    ...things,
    {
      input: await sharp(grain, { raw: { width: WIDTH, height: HEIGHT, channels: 1 } })
        .png()
        .toBuffer(),
      blend: 'soft-light',
    },
  ])
  .jpeg({ quality: 82 })
  .toBuffer()
writeFileSync(join(media, 'shelf.jpg'), shelf)
