/** Handlers of the operations on terms: categories, tags and authors. */
import type { termOperations } from '../../../contract/terms.ts'
import type { TermKind } from '../../../core/shapes/content-kinds.ts'
import { success, unknown } from '../../../core/shapes/outcome.ts'
import { ROW_PROBLEMS } from '../../author/problems.ts'
import { deleteTerm } from '../../author/terms/delete-term.ts'
import { createTerm, listTerms, placeCategory, saveTerm, termFile } from '../../author/terms/terms.ts'
import { write } from '../../author/writing.ts'
import type { ClockPort, DatabasePort, SitePort, StorePort } from '../../publish/ports.ts'
import { addressFor } from '../../reader/addresses/slug-address.ts'
import { mapWritten, withPurged, type HandlersOf } from '../http/handlers-of.ts'

export function termHandlers(
  blog: DatabasePort & SitePort & StorePort & ClockPort,
): HandlersOf<typeof termOperations> {
  const terms = async (kind: TermKind) =>
    (await listTerms(blog.database, kind)).map((one) => ({
      ...one,
      address: addressFor(blog, kind, one.slug)?.path ?? null,
    }))
  return {
    'GET /api/terms': async ({ query }) => success(await terms(query.kind)),
    'GET /api/term': async ({ query: { kind, slug } }) => {
      const found = (await terms(kind)).find((one) => one.slug === slug)
      return found
        ? success(found)
        : unknown({ file: termFile(kind), ...ROW_PROBLEMS['row-unknown'](kind, slug) })
    },
    'POST /api/terms': async ({ body: { kind, ...parts } }) =>
      withPurged(await write(blog, (writing) => createTerm(writing, kind, parts))),
    'PUT /api/term': async ({ query: { kind, slug }, body: { version, ...parts } }) =>
      withPurged(await write(blog, (writing) => saveTerm(writing, kind, { slug, version }, parts))),
    'POST /api/category/move': async ({ query: { slug }, body: { version, ...to } }) =>
      withPurged(await write(blog, (writing) => placeCategory(writing, { slug, version }, to))),
    'POST /api/term/delete': async ({ query: { kind, slug }, body }) => {
      const { version, into = null, evenIfUsed = false } = body
      const written = await write(blog, (writing) =>
        deleteTerm(writing, kind, { slug, version }, { into, evenIfUsed }),
      )
      return mapWritten(written, ({ deleted, name, posts }) => ({ deleted, title: name, posts }))
    },
  }
}
