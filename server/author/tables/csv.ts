/** Content as CSV tables (RFC 4180) with a header row. */
import { stringify } from 'csv-stringify/sync'
import type { DataSource } from 'typeorm'
import { imagesWithUses } from '../../store/content/images.ts'
import { listPages } from '../pages/pages.ts'
import { listPosts, type PostFilter } from '../posts/post-list.ts'
import { listTerms } from '../terms/terms.ts'
import type { TermKind } from '../../../core/shapes/content-kinds.ts'

type Cell = string | number | boolean

/** Formats rows. A text that starts like a formula is escaped, so that no spreadsheet runs it (OWASP, CSV injection). */
export const csvRows = (rows: readonly (readonly Cell[])[]): string =>
  stringify(
    rows.map((row) => row.map((cell) => (typeof cell === 'boolean' ? (cell ? 'yes' : 'no') : cell))),
    // RFC 4180 §2.6: a single CR or LF needs quotes too; the library looks only for both together.
    { record_delimiter: '\r\n', escape_formulas: true, quoted_match: /[\r\n]/ },
  )

/** How many posts are read at a time. */
const BATCH = 1_000

/** Yields all posts that match a filter, on all pages of the list. */
export async function* postsAsCsv(database: DataSource, filter: PostFilter): AsyncGenerator<string> {
  yield csvRows([
    ['slug', 'title', 'state', 'published', 'updated', 'category', 'author', 'comments', 'words', 'image'],
  ])
  for (let page = 1; ; page++) {
    const { posts } = await listPosts(database, { ...filter, page, size: BATCH })
    yield csvRows(
      posts.map((one) => [
        one.slug,
        one.title,
        one.state,
        one.publishedAt?.toISOString() ?? '',
        one.updatedAt.toISOString(),
        one.category?.slug ?? '',
        one.author?.slug ?? '',
        one.comments,
        one.wordCount,
        one.image ?? '',
      ]),
    )
    if (posts.length < BATCH) return
  }
}

export async function* pagesAsCsv(database: DataSource): AsyncGenerator<string> {
  yield csvRows([['path', 'title', 'navigation', 'updated', 'words']])
  const pages = await listPages(database)
  yield csvRows(
    pages.map((one) => [one.path, one.title, one.inNavigation, one.updatedAt.toISOString(), one.wordCount]),
  )
}

export async function* termsAsCsv(database: DataSource, kind: TermKind): AsyncGenerator<string> {
  const more = { category: 'in', tag: undefined, author: 'about' }[kind]
  yield csvRows([['slug', 'name', 'published', 'scheduled', 'drafts', ...(more === undefined ? [] : [more])]])
  const terms = await listTerms(database, kind)
  yield csvRows(
    terms.map((one) => [
      one.slug,
      one.name,
      one.posts.published,
      one.posts.scheduled,
      one.posts.draft,
      ...(kind === 'category' ? [one.parent ?? ''] : kind === 'author' ? [one.about ?? ''] : []),
    ]),
  )
}

export async function* imagesAsCsv(database: DataSource): AsyncGenerator<string> {
  yield csvRows([['name', 'type', 'width', 'height', 'bytes', 'added', 'used by']])
  const images = await imagesWithUses(database)
  yield csvRows(
    images.map((one) => [
      one.name,
      one.type,
      one.width,
      one.height,
      one.bytes,
      one.addedAt.toISOString(),
      one.uses.map((use) => use.name).join(' '),
    ]),
  )
}
