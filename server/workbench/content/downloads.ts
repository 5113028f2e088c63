/** What is taken away as a file: all posts as Markdown, and every table as CSV. */
import { Readable } from 'node:stream'
import type { Hono } from 'hono'
import type { Blog } from '../../reader/blog.ts'
import { imagesAsCsv, pagesAsCsv, postsAsCsv, termsAsCsv } from '../../author/tables/csv.ts'
import { exportPosts } from '../../author/posts/post-files.ts'

type Pieces = AsyncIterable<Uint8Array | string>

export interface Download {
  path: string
  summary: string
  /** Name of the file. */
  name: string
  type: string
  pieces(blog: Blog): Pieces
}

const CSV = 'text/csv; charset=utf-8'
const csv = (what: string, pieces: (blog: Blog) => Pieces): Download => ({
  path: `/api/${what}/export.csv`,
  summary: `The table of ${what} as CSV`,
  name: `${what}.csv`,
  type: CSV,
  pieces,
})

export const DOWNLOADS: readonly Download[] = [
  {
    path: '/api/posts/export.zip',
    summary: 'All posts as Markdown files with front matter, in a ZIP archive',
    name: 'posts.zip',
    type: 'application/zip',
    pieces: ({ database }) => exportPosts(database),
  },
  csv('posts', ({ database }) => postsAsCsv(database, {})),
  csv('pages', ({ database }) => pagesAsCsv(database)),
  csv('categories', ({ database }) => termsAsCsv(database, 'category')),
  csv('tags', ({ database }) => termsAsCsv(database, 'tag')),
  csv('authors', ({ database }) => termsAsCsv(database, 'author')),
  csv('images', ({ database }) => imagesAsCsv(database)),
]

export function addDownloads(app: Hono, blog: Blog): void {
  for (const { path, name, type, pieces } of DOWNLOADS)
    app.get(path, () => download(name, type, pieces(blog)))
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
