/** HTML that an older pipeline made is made anew: once after an update, in the background, a few rows at a time. */
import type { DataSource, EntityManager } from 'typeorm'
import { PIPELINE_VERSION, renderMarkdown, type ImageSizes } from '../../core/content/markdown.ts'
import type { Blog } from '../blog/blog.ts'
import { ImageEntity } from '../database/entities/content.ts'
import { shownText } from './posts.ts'

const BATCH = 50

/** Sizes of the blog's own images, by their addresses. */
export async function loadImageSizes(manager: DataSource | EntityManager): Promise<ImageSizes> {
  const images = await manager
    .getRepository(ImageEntity)
    .find({ select: { name: true, width: true, height: true } })
  const sizes = new Map(images.map(({ name, width, height }) => [`/media/${name}`, { width, height }]))
  return (address) => sizes.get(address.replace(/[?#].*$/s, ''))
}

interface OldRow {
  id: number
  body: string
  html: string
  written_excerpt: string | null
}

/**
 * @returns how many rows were made anew. A row that an author saves meanwhile is left alone: the save made it anew.
 */
export async function renewHtml(blog: Blog, signal?: AbortSignal): Promise<number> {
  const { database } = blog
  const sizeOf = await loadImageSizes(database)
  let renewed = 0
  for (const table of ['post', 'page'] as const) {
    const excerpt = table === 'post' ? 'written_excerpt' : 'NULL AS written_excerpt'
    for (let last = 0; ;) {
      if (signal?.aborted) return renewed
      const rows = await database.query<OldRow[]>(
        `SELECT id, body, html, ${excerpt} FROM ${table} WHERE pipeline_version < $1 AND id > $2 ORDER BY id LIMIT ${BATCH}`,
        [PIPELINE_VERSION, last],
      )
      if (rows.length === 0) break
      for (const row of rows) {
        const html = renderMarkdown(row.body, sizeOf).html
        const shown = shownText(html, row.written_excerpt)
        const extra = table === 'post' ? ', excerpt = $5, word_count = $6' : ''
        await database.query(
          `UPDATE ${table} SET html = $1, pipeline_version = $2${extra} WHERE id = $3 AND body = $4`,
          [
            html,
            PIPELINE_VERSION,
            row.id,
            row.body,
            ...(table === 'post' ? [shown.excerpt, shown.wordCount] : []),
          ],
        )
        renewed++
        blog.changed({
          source: table === 'post' ? 'posts' : 'pages',
          id: row.id,
          before: { html: row.html },
          after: { html },
        })
      }
      last = rows.at(-1)?.id ?? last
    }
  }
  return renewed
}
