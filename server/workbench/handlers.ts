/** The handlers of all operations, area by area. */
import type { Checks } from '../checks/service.ts'
import type { TemplatePreviews } from '../previews/template-previews.ts'
import type { GrowthJobs } from '../growth/job.ts'
import type { Mailer } from '../mail/mailer.ts'
import type { Blog } from '../reader/blog.ts'
import type { OwnIndexes } from '../store/indexes/own-indexes.ts'
import { CopyAudit } from '../probes/copies/audit.ts'
import type { CopiesPort } from '../reader/copies.ts'
import { cacheHandlers, type EdgeParts } from './cache/handlers.ts'
import { changeHandlers } from './changes/handlers.ts'
import { checkHandlers } from './checks/handlers.ts'
import { commentHandlers } from './comments/handlers.ts'
import type { ServiceKeys } from './comments/outside-handlers.ts'
import { mailHandlers } from './comments/mail-handlers.ts'
import { contentHandlers } from './content/handlers.ts'
import { htmlHandlers } from './content/html-handlers.ts'
import { imageHandlers } from './content/image-handlers.ts'
import { pageHandlers } from './content/page-handlers.ts'
import { postHandlers } from './content/post-handlers.ts'
import { termHandlers } from './content/term-handlers.ts'
import { documentHandlers } from './documents/handlers.ts'
import type { Handlers } from './http/handlers-of.ts'
import { growthHandlers } from './queries/growth-handlers.ts'
import { queryHandlers } from './queries/handlers.ts'
import { routeHandlers } from './routes/handlers.ts'
import { slugHandlers } from './routes/slug-handlers.ts'
import { sessionHandlers } from './session/handlers.ts'
import type { Sessions } from './http/sessions.ts'
import { templateHandlers } from './templates/handlers.ts'
import { buildingHandlers } from './building/handlers.ts'
import { walkHandlers } from './walk/handlers.ts'

export interface Services {
  blog: Blog
  /** The origin under which readers reach the blog. */
  blogOrigin: string
  checks: Checks
  previews: TemplatePreviews
  growth: GrowthJobs
  indexes: OwnIndexes
  sessions: Sessions
  mailer: Mailer
  copies: CopiesPort
  edge: EdgeParts
  commentKeys: ServiceKeys
  /** The folder of the demo blog, whose comments drafts start from. */
  shipped: string
}

export const makeHandlers = ({
  blog,
  blogOrigin,
  checks,
  previews,
  growth,
  indexes,
  sessions,
  mailer,
  copies,
  edge,
  commentKeys,
  shipped,
}: Services): Handlers => ({
  ...sessionHandlers(blog, blogOrigin, sessions),
  ...walkHandlers(blog),
  ...documentHandlers(blog),
  ...templateHandlers(previews),
  ...buildingHandlers(blog, previews, shipped),
  ...cacheHandlers(blog, copies, new CopyAudit(copies, blog), edge),
  ...routeHandlers(blog, shipped),
  ...slugHandlers(blog),
  ...queryHandlers(blog),
  ...growthHandlers(blog, growth, indexes),
  ...checkHandlers(checks),
  ...changeHandlers(blog),
  ...commentHandlers(blog, commentKeys),
  ...mailHandlers(blog, mailer),
  ...postHandlers(blog),
  ...pageHandlers(blog),
  ...termHandlers(blog),
  ...imageHandlers(blog),
  ...contentHandlers(blog),
  ...htmlHandlers(blog),
})
