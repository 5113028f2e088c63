/** Handlers of the operations on slugs. */
import type { slugOperations } from '../../../contract/slugs.ts'
import { success } from '../../../core/shapes/outcome.ts'
import { changeSlug, checkSlug } from '../../author/slugs/slugs.ts'
import { write } from '../../author/writing.ts'
import type { ClockPort, PoolPort, SitePort, StorePort } from '../../publish/ports.ts'
import { addressFor, hiding } from '../../reader/addresses/slug-address.ts'
import { mapWritten, type HandlersOf } from '../http/handlers-of.ts'

export const slugHandlers = (
  blog: PoolPort & SitePort & StorePort & ClockPort,
): HandlersOf<typeof slugOperations> => ({
  'GET /api/slug': async ({ query: { kind, text, from = 'slug', own } }) => {
    const question = { kind, text, fromTitle: from === 'title', own }
    const checked = await checkSlug(blog, blog.site.definition.slugRules, question, (slug) =>
      hiding(blog, kind, slug),
    )
    const address = checked.slug === '' ? undefined : addressFor(blog, kind, checked.slug)
    return success({ ...checked, address: address?.path ?? null })
  },
  'PUT /api/slug': async ({ body: { kind, from, to } }) => {
    const written = await write(blog, (writing) => changeSlug(writing, { kind, from, to }))
    return mapWritten(written, ({ current, former }) => {
      const hidden = hiding(blog, kind, current)
      return {
        current,
        former,
        address: addressFor(blog, kind, current)?.path ?? null,
        note: hidden
          ? `Route “${hidden.route}” answers ${hidden.address}, so readers do not see it there.`
          : null,
      }
    })
  },
})
