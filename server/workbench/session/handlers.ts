/** Handlers of the operations for the workbench itself. */
import type { sessionOperations } from '../../../contract/session.ts'
import { success } from '../../../core/shapes/outcome.ts'
import type { SitePort } from '../../publish/ports.ts'
import type { HandlersOf } from '../http/handlers-of.ts'
import { firstAddress } from '../walk/suggestions.ts'

export const sessionHandlers = (
  blog: SitePort,
  blogOrigin: string,
): HandlersOf<typeof sessionOperations> => ({
  'GET /api/session': () =>
    success({
      title: blog.site.definition.settings.title,
      blog: blogOrigin,
      version: blog.site.version,
      start: firstAddress(blog),
    }),
})
