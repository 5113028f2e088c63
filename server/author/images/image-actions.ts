/** The use cases of images: add, replace and delete. */
import type { EntityManager } from 'typeorm'
import { refused, success, unknown, type Outcome } from '../../../core/shapes/outcome.ts'
import { ImageEntity, PostEntity } from '../../store/entities/content.ts'
import { keepAndDelete } from '../deleted/deleted.ts'
import { IMAGE_PROBLEMS, ROW_PROBLEMS } from '../problems.ts'
import type { Writing } from '../writing.ts'
import type { ReadImage, RemovedPart } from './images.ts'

export interface AddedImage {
  outcome: 'added' | 'replaced' | 'same'
  name: string
  width: number
  height: number
  removed: RemovedPart[]
}

/** How many names are tried if other images have them. */
const ATTEMPTS = 50

/**
 * Adds an image. The same content under the same name is the same image. Other content gets another name.
 * @param replaces the name of the image that it replaces everywhere
 */
export async function addImage(
  writing: Writing,
  { image, removed }: ReadImage,
  replaces?: string,
): Promise<Outcome<AddedImage>> {
  const facts = { width: image.width, height: image.height, removed }
  if (replaces !== undefined) return await replaceImage(writing, { image, removed }, replaces)
  const { manager } = writing
  for (let number = 1; number <= ATTEMPTS; number++) {
    const name = number === 1 ? image.name : image.name.replace(/\.(\w+)$/, `-${number}.$1`)
    const taken = await manager.findOne(ImageEntity, { where: { name }, select: { id: true, sha256: true } })
    if (taken?.sha256 === image.sha256) return success({ outcome: 'same', name, ...facts })
    if (taken) continue
    let isTaken = false
    const added = await writing.attempt(
      async (part) => {
        await part.manager.insert(ImageEntity, { ...image, name })
        return success(name)
      },
      (constraint) => {
        isTaken = constraint === 'image_name_key'
        return isTaken ? namesExhausted(image.name) : undefined
      },
    )
    // Someone else has just taken the name, so the next number is tried.
    if (!added.ok) continue
    writing.forgetNames()
    return success({ outcome: 'added', name, ...facts })
  }
  return namesExhausted(image.name)
}

const namesExhausted = (name: string) =>
  refused({ file: `media/${name}`, ...IMAGE_PROBLEMS['image-names-exhausted'](name, ATTEMPTS) })

async function replaceImage(
  writing: Writing,
  { image, removed }: ReadImage,
  name: string,
): Promise<Outcome<AddedImage>> {
  const { manager } = writing
  const known = await manager.findOne(ImageEntity, {
    where: { name },
    select: { id: true, type: true },
    lock: { mode: 'pessimistic_write' },
  })
  const file = `media/${name}`
  if (!known) return unknown({ file, ...ROW_PROBLEMS['row-unknown']('image', name) })
  if (known.type !== image.type)
    return refused({
      file,
      ...IMAGE_PROBLEMS['image-type-differs'](name, known.type, image.type),
    })
  const { type, width, height, sha256, bytes } = image
  await manager.update(ImageEntity, { id: known.id }, { type, width, height, sha256, bytes })
  return success({ outcome: 'replaced', name, width, height, removed })
}

async function postsWithImage(manager: EntityManager, image: number): Promise<number[]> {
  const posts = await manager.find(PostEntity, { where: { imageId: image }, select: { id: true } })
  return posts.map((one) => one.id)
}

/** Deletes an image. Posts that have it as their image are left without one. It can be restored. */
export async function deleteImage(writing: Writing, name: string): Promise<Outcome<{ deleted: number }>> {
  const { manager } = writing
  const image = await manager.findOne(ImageEntity, {
    where: { name },
    select: { id: true },
    lock: { mode: 'pessimistic_write' },
  })
  if (!image) return unknown({ file: `media/${name}`, ...ROW_PROBLEMS['row-unknown']('image', name) })
  const ids = await postsWithImage(manager, image.id)
  await manager
    .createQueryBuilder()
    .update(PostEntity)
    .set({ imageId: null, version: () => 'version + 1' })
    .where('id = ANY(:ids)', { ids })
    .execute()
  const deleted = await keepAndDelete(manager, {
    kind: 'image',
    name,
    title: name,
    rows: [{ table: 'image', column: 'id', values: [image.id] }],
    references: [{ table: 'post', column: 'image_id', was: image.id, now: null, ids }],
  })
  writing.forgetNames()
  return success({ deleted })
}
