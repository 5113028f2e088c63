/** Downloads: all posts as Markdown files, and every table as CSV. */
import { Readable } from 'node:stream'
import type { Hono } from 'hono'
import type { DatabasePort } from '../../publish/ports.ts'
import { imagesAsCsv, pagesAsCsv, postsAsCsv, termsAsCsv } from '../../author/tables/csv.ts'
import { commentsAsCsv, commentsAsJson } from '../../author/comments/comment-files.ts'
import { exportPosts } from '../../author/posts/export-posts.ts'

type Chunks = AsyncIterable<Uint8Array | string>

export interface Download {
  path: string
  summary: string
  /** The name of the file. */
  name: string
  type: string
  chunks(blog: DatabasePort): Chunks
}

const CSV = 'text/csv; charset=utf-8'
const csv = (what: string, chunks: (blog: DatabasePort) => Chunks): Download => ({
  path: `/api/${what}/export.csv`,
  summary: `Export ${what} as CSV`,
  name: `${what}.csv`,
  type: CSV,
  chunks,
})

export const DOWNLOADS: readonly Download[] = [
  {
    path: '/api/posts/export.zip',
    summary: 'Export all posts as Markdown files in a ZIP archive',
    name: 'posts.zip',
    type: 'application/zip',
    chunks: ({ database }) => exportPosts(database),
  },
  csv('posts', ({ database }) => postsAsCsv(database, {})),
  csv('pages', ({ database }) => pagesAsCsv(database)),
  csv('categories', ({ database }) => termsAsCsv(database, 'category')),
  csv('tags', ({ database }) => termsAsCsv(database, 'tag')),
  csv('authors', ({ database }) => termsAsCsv(database, 'author')),
  csv('images', ({ database }) => imagesAsCsv(database)),
  csv('comments', ({ database }) => commentsAsCsv(database)),
  {
    path: '/api/comments/export.json',
    summary: 'Export comments as JSON',
    name: 'comments.json',
    type: 'application/json',
    chunks: ({ database }) => commentsAsJson(database),
  },
]

export function addDownloads(app: Hono, blog: DatabasePort): void {
  for (const { path, name, type, chunks } of DOWNLOADS)
    app.get(path, () => download(name, type, chunks(blog)))
}

/** Streams chunks. If one fails, the connection is closed, so that an incomplete file cannot look complete. */
export function download(name: string, type: string, chunks: AsyncIterable<Uint8Array | string>): Response {
  const bytes = Readable.from(asBytes(chunks))
  return new Response(Readable.toWeb(bytes) as ReadableStream<Uint8Array>, {
    headers: {
      'content-type': type,
      'content-disposition': `attachment; filename="${name}"`,
      'x-content-type-options': 'nosniff',
    },
  })
}

async function* asBytes(chunks: AsyncIterable<Uint8Array | string>): AsyncGenerator<Uint8Array> {
  for await (const chunk of chunks) yield typeof chunk === 'string' ? Buffer.from(chunk) : chunk
}
