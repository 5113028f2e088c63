/** The sizes of the blog's images, so that rendered HTML reserves space for them. */
import type { DataSource, EntityManager } from 'typeorm'
import type { ImageSizes } from '../../../core/content/html/allow-list.ts'
import { ImageEntity } from '../../store/entities/content.ts'

/** Loads the sizes of all images, by their addresses. */
export async function loadImageSizes(manager: DataSource | EntityManager): Promise<ImageSizes> {
  const images = await manager
    .getRepository(ImageEntity)
    .find({ select: { name: true, width: true, height: true } })
  const sizes = new Map(images.map(({ name, width, height }) => [`/media/${name}`, { width, height }]))
  return (address) => sizes.get(address.replace(/[?#].*$/s, ''))
}
