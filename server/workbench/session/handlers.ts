/** Handlers of the operations for the workbench itself. */
import type { sessionOperations } from '../../../contract/session.ts'
import { success } from '../../../core/shapes/outcome.ts'
import type { SitePort } from '../../publish/ports.ts'
import type { HandlersOf } from '../http/handlers-of.ts'
import type { Sessions } from '../http/sessions.ts'
import { firstAddress } from '../walk/suggestions.ts'

export const sessionHandlers = (
  blog: SitePort,
  blogOrigin: string,
  sessions: Sessions,
): HandlersOf<typeof sessionOperations> => ({
  'GET /api/session': () =>
    success({
      title: blog.site.definition.settings.title,
      blog: blogOrigin,
      version: blog.site.version,
      start: firstAddress(blog),
    }),
  'GET /api/sessions': async () =>
    success(
      (await sessions.list()).map(({ id, browser, createdAt, seenAt }) => ({
        id,
        browser,
        since: createdAt.toISOString(),
        seen: seenAt.toISOString(),
      })),
    ),
  'DELETE /api/sessions': async ({ query }) => success({ ended: await sessions.end(query.id) }),
})
