/** The blog's images: added, replaced, deleted, and where each is used. */
import type { DataSource } from 'typeorm'
import type { Problem } from '../../../core/shapes/problem.ts'
import type { Blog } from '../../reader/blog.ts'
import { ImageEntity } from '../../store/entities/content.ts'
import { putInBin, type Link } from '../deleted/bin.ts'
import { readImage, type RemovedPart } from './images.ts'
import { renewHtml } from '../texts/renew-html.ts'
import { isUniqueViolation } from '../../store/slugs.ts'

export interface ImageUse {
  /** post: its picture; text: in the text of a post or page; definition: in a template or asset. */
  how: 'picture' | 'text' | 'definition'
  kind: 'post' | 'page' | 'document'
  /** Slug, path, or path of the document. */
  name: string
  title: string
}

export interface ListedImage {
  name: string
  type: string
  width: number
  height: number
  /** Of the file. */
  bytes: number
  sha256: string
  addedAt: Date
  uses: ImageUse[]
}

/** Names of images in a text: `/media/NAME`. */
const MENTIONED = String.raw`/media/([a-z0-9][a-z0-9.-]*\.[a-z0-9]+)`

/** All images by name, with everything that uses each. */
export async function listImages(database: DataSource): Promise<ListedImage[]> {
  const [rows, used] = await Promise.all([
    database.query<Omit<ListedImage, 'uses'>[]>(
      `SELECT name, type, width, height, octet_length(bytes) AS bytes, sha256, added_at AS "addedAt" FROM image ORDER BY name`,
    ),
    database.query<(ImageUse & { image: string })[]>(
      `SELECT image.name AS image, 'picture' AS how, 'post' AS kind, post.slug AS name, post.title
         FROM post JOIN image ON image.id = post.image_id
       UNION SELECT found[1], 'text', 'post', slug, title FROM post, regexp_matches(body, $1, 'g') found WHERE body LIKE '%/media/%'
       UNION SELECT found[1], 'text', 'page', path, title FROM page, regexp_matches(body, $1, 'g') found WHERE body LIKE '%/media/%'
       UNION SELECT found[1], 'definition', 'document', path, path FROM document, regexp_matches(text, $1, 'g') found WHERE text LIKE '%/media/%'
       ORDER BY how, title`,
      [MENTIONED],
    ),
  ])
  const uses = new Map<string, ImageUse[]>()
  for (const { image, ...use } of used) uses.set(image, [...(uses.get(image) ?? []), use])
  return rows.map((row) => ({ ...row, uses: uses.get(row.name) ?? [] }))
}

export type AddResult =
  | {
      outcome: 'added' | 'replaced' | 'same'
      name: string
      width: number
      height: number
      removed: RemovedPart[]
    }
  | { outcome: 'refused'; problem: Problem }
  | { outcome: 'unknown' }

/** Names that are tried when one is taken by another picture. */
const ATTEMPTS = 50

/**
 * Adds a picture. The same bytes under the same name are the same picture; other bytes get another name.
 * @param replaces name of the image whose place it takes; what shows that one shows this one from then on
 */
export async function addImage(
  blog: Blog,
  file: string,
  bytes: Buffer,
  replaces: string | undefined,
): Promise<AddResult> {
  const read = await readImage(file, bytes)
  if (!read.ok) return { outcome: 'refused', problem: read.problem }
  const { image, removed } = read
  const facts = { width: image.width, height: image.height, removed }
  const images = blog.database.getRepository(ImageEntity)
  if (replaces !== undefined) {
    const known = await images.findOne({
      where: { name: replaces },
      select: { id: true, type: true, width: true, height: true },
    })
    if (!known) return { outcome: 'unknown' }
    if (known.type !== image.type)
      return {
        outcome: 'refused',
        problem: {
          file,
          message: `“${replaces}” has the type ${known.type}, and this is ${image.type}`,
          hint: 'add it as a new picture, under its own name',
        },
      }
    const { type, width, height, sha256 } = image
    const columns = { type, width, height, sha256, bytes: image.bytes }
    await images.update({ id: known.id }, columns)
    await tellOfImage(blog, replaces, known.id)
    return { outcome: 'replaced', name: replaces, ...facts }
  }
  for (let number = 1; number <= ATTEMPTS; number++) {
    const name = number === 1 ? image.name : image.name.replace(/\.(\w+)$/, `-${number}.$1`)
    const taken = await images.findOne({ where: { name }, select: { sha256: true } })
    if (taken?.sha256 === image.sha256) return { outcome: 'same', name, ...facts }
    if (taken) continue
    try {
      await images.insert({ ...image, name })
    } catch (error) {
      // Somebody was faster with the same name: the next number is tried.
      if (isUniqueViolation(error)) continue
      throw error
    }
    await tellOfImage(blog, name, null)
    return { outcome: 'added', name, ...facts }
  }
  return {
    outcome: 'refused',
    problem: {
      file,
      message: `there are ${ATTEMPTS} pictures called ${image.name} already`,
      hint: 'give the file another name',
    },
  }
}

/** What shows an image by its name hears that it is there, or another one now. */
export async function tellOfImage(blog: Blog, name: string, id: number | null): Promise<void> {
  blog.images.delete(name)
  await renewHtml(blog, { showing: name })
  if (id === null) return
  const posts = await blog.database.query<{ id: number }[]>('SELECT id FROM post WHERE image_id = $1', [id])
  for (const post of posts)
    blog.changed({ source: 'posts', id: post.id, before: { image: 'before' }, after: { image: 'after' } })
}

export type ImageDeletion = { outcome: 'deleted'; deleted: number } | { outcome: 'unknown' }

/** Deletes an image; posts whose picture it is have none then. It can be put back. */
export async function deleteImage(blog: Blog, name: string): Promise<ImageDeletion> {
  const result = await blog.database.transaction(async (manager) => {
    const [image] = await manager.query<{ id: number }[]>('SELECT id FROM image WHERE name = $1 FOR UPDATE', [
      name,
    ])
    if (!image) return undefined
    const [posts] = await manager.query<[{ id: number }[], number]>(
      'UPDATE post SET image_id = NULL, version = version + 1 WHERE image_id = $1 RETURNING id',
      [image.id],
    )
    const ids = posts.map((one) => one.id)
    const links: Link[] = [{ table: 'post', column: 'image_id', was: image.id, now: null, ids }]
    const deleted = await putInBin(manager, {
      kind: 'image',
      name,
      title: name,
      going: [{ table: 'image', column: 'id', values: [image.id] }],
      links,
    })
    return { deleted, ids, id: image.id }
  })
  if (!result) return { outcome: 'unknown' }
  for (const id of result.ids)
    blog.changed({ source: 'posts', id, before: { imageId: result.id }, after: { imageId: null } })
  blog.images.delete(name)
  await renewHtml(blog, { showing: name })
  return { outcome: 'deleted', deleted: result.deleted }
}
