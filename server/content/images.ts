/** Reads an image file: its type by content, its dimensions. For now SVG drawings only, without scripts. */
import { createHash } from 'node:crypto'
import type { Problem } from '../../core/definition/problem.ts'
import type { ImageEntity } from '../database/entities/content.ts'

const IMAGE_LIMIT = 2 * 1024 * 1024
/** What an SVG drawing may not contain: anything that runs, loads or embeds. */
const UNSAFE =
  /<(script|foreignObject|iframe|object|embed|image|use|animate|set|style|a|!ENTITY|!DOCTYPE)\b|\son\w+\s*=|javascript:|href\s*=/i

export type ImageResult = { ok: true; image: Omit<ImageEntity, 'id'> } | { ok: false; problem: Problem }

export function readImage(name: string, bytes: Buffer): ImageResult {
  const refuse = (message: string, hint?: string): ImageResult => ({
    ok: false,
    problem: { file: `media/${name}`, message, ...(hint === undefined ? {} : { hint }) },
  })
  if (!/^[a-z0-9]+(-[a-z0-9]+)*\.svg$/.test(name))
    return refuse('the name of an image has lower-case letters, digits and hyphens and ends with .svg')
  if (bytes.byteLength > IMAGE_LIMIT)
    return refuse(`the image is larger than ${IMAGE_LIMIT / 1024 / 1024} MB`)
  const text = bytes.toString('utf8')
  const box = /^<svg\b[^>]*\bviewBox="0 0 (\d{1,5}) (\d{1,5})"/.exec(text)
  if (!box) return refuse('this is no SVG drawing with a viewBox from 0 0')
  const unsafe = UNSAFE.exec(text)
  if (unsafe)
    return refuse(
      `the drawing contains “${unsafe[0].trim()}”`,
      'a drawing has shapes only: nothing that runs, loads or embeds',
    )
  const sha256 = createHash('sha256').update(bytes).digest('hex')
  return {
    ok: true,
    image: { name, type: 'image/svg+xml', width: Number(box[1]), height: Number(box[2]), bytes, sha256 },
  }
}
