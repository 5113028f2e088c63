/** What is taken away as a file: all posts as Markdown, their table as CSV. */
import { Readable } from 'node:stream'
import type { Hono } from 'hono'
import type { Blog } from '../blog/blog.ts'
import { exportPosts, postsAsCsv } from '../content/post-files.ts'

export function addDownloads(app: Hono, blog: Blog): void {
  app.get('/api/posts/export.zip', () => download('posts.zip', 'application/zip', exportPosts(blog.database)))
  app.get('/api/posts/export.csv', () =>
    download('posts.csv', 'text/csv; charset=utf-8', postsAsCsv(blog.database, {})),
  )
}

/** Piece by piece. When one fails, the connection breaks off: a file that is not whole must not look it. */
export function download(name: string, type: string, pieces: AsyncIterable<Uint8Array | string>): Response {
  const bytes = Readable.from(asBytes(pieces))
  return new Response(Readable.toWeb(bytes) as ReadableStream<Uint8Array>, {
    headers: {
      'content-type': type,
      'content-disposition': `attachment; filename="${name}"`,
      'x-content-type-options': 'nosniff',
    },
  })
}

async function* asBytes(pieces: AsyncIterable<Uint8Array | string>): AsyncGenerator<Uint8Array> {
  for await (const piece of pieces) yield typeof piece === 'string' ? Buffer.from(piece) : piece
}
