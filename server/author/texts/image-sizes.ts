/** Loads the sizes of the blog's images, so that rendered HTML reserves their space. */
import type { DataSource, EntityManager } from 'typeorm'
import type { ImageSizes } from '../../../core/content/html/allow-list.ts'
import { ImageEntity } from '../../store/entities/content.ts'

/** Sizes of the blog's own images, by their addresses. */
export async function loadImageSizes(manager: DataSource | EntityManager): Promise<ImageSizes> {
  const images = await manager
    .getRepository(ImageEntity)
    .find({ select: { name: true, width: true, height: true } })
  const sizes = new Map(images.map(({ name, width, height }) => [`/media/${name}`, { width, height }]))
  return (address) => sizes.get(address.replace(/[?#].*$/s, ''))
}
