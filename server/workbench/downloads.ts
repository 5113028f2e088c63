/** What is taken away as a file: all posts as Markdown, their table as CSV. */
import type { Context, Hono } from 'hono'
import { stream } from 'hono/streaming'
import type { Blog } from '../blog/blog.ts'
import { exportPosts, postsAsCsv } from '../content/post-files.ts'

export function addDownloads(app: Hono, blog: Blog): void {
  app.get('/api/posts/export.zip', (context) =>
    download(context, 'posts.zip', 'application/zip', exportPosts(blog.database)),
  )
  app.get('/api/posts/export.csv', (context) =>
    download(context, 'posts.csv', 'text/csv; charset=utf-8', postsAsCsv(blog.database, {})),
  )
}

function download(
  context: Context,
  name: string,
  type: string,
  pieces: AsyncIterable<Uint8Array | string>,
): Response {
  context.header('content-type', type)
  context.header('content-disposition', `attachment; filename="${name}"`)
  context.header('x-content-type-options', 'nosniff')
  return stream(
    context,
    async (out) => {
      for await (const piece of pieces) {
        if (out.aborted) return
        await out.write(piece)
      }
    },
    async (error) => {
      // Headers are out: a file that breaks off must not look whole.
      throw error
    },
  )
}
