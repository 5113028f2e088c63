/** Exports all posts as Markdown files with front matter, in a ZIP archive. */
import { strToU8, Zip, ZipDeflate } from 'fflate'
import type { DataSource } from 'typeorm'
import { PostEntity } from '../../store/entities/content.ts'
import { postFileOf, postPath } from './post-file.ts'

/** How many posts are read at a time. */
const BATCH = 200

/** Yields the archive in chunks, so that it never has to be in memory as a whole. */
export async function* exportPosts(database: DataSource): AsyncGenerator<Uint8Array> {
  const ready: Uint8Array[] = []
  let failure: Error | null = null
  const archive = new Zip((error, chunk) => {
    if (error) failure = error
    else ready.push(chunk)
  })
  for (let last = 0; ;) {
    const posts = await database
      .getRepository(PostEntity)
      .createQueryBuilder('post')
      .leftJoinAndSelect('post.category', 'category')
      .leftJoinAndSelect('post.author', 'author')
      .leftJoin('post.image', 'image')
      .addSelect(['image.id', 'image.name'])
      .leftJoinAndSelect('post.tags', 'tag')
      .where('post.id > :last', { last })
      .orderBy('post.id')
      .take(BATCH)
      .getMany()
    for (const post of posts) {
      const entry = new ZipDeflate(postPath(post.slug), { level: 6 })
      entry.mtime = post.updatedAt
      archive.add(entry)
      entry.push(strToU8(postFileOf(post)), true)
    }
    if (failure) throw failure as Error
    yield* ready.splice(0)
    if (posts.length < BATCH) break
    last = posts.at(-1)?.id ?? last
  }
  archive.end()
  yield* ready.splice(0)
}
