/** Handlers of the operations on pages. */
import type { BodyOf } from '../../../contract/operations.ts'
import type { pageOperations } from '../../../contract/pages.ts'
import { markdownForPages } from '../../../core/content/html/markdown.ts'
import { sanitizeHtml } from '../../../core/content/html/allow-list.ts'
import { countWords, plainText } from '../../../core/content/text.ts'
import { success, unknown, type Outcome } from '../../../core/shapes/outcome.ts'
import { pagePath } from '../../author/pages/page-file.ts'
import { createPage, deletePage, listPages, placePage, savePage } from '../../author/pages/pages.ts'
import { ROW_PROBLEMS } from '../../author/problems.ts'
import { write, type Writing } from '../../author/writing.ts'
import { previewAt } from '../../probes/preview.ts'
import { addressFor } from '../../reader/addresses/slug-address.ts'
import type { DatabasePort } from '../../publish/ports.ts'
import type { RehearsalPorts } from '../../probes/rehearse.ts'
import { formerSlugsOf } from '../../store/content/slugs.ts'
import { PageEntity } from '../../store/entities/content.ts'
import { mapValue, withPurged, type HandlersOf } from '../http/handlers-of.ts'

type Ports = RehearsalPorts & DatabasePort

export const pageHandlers = (blog: Ports): HandlersOf<typeof pageOperations> => ({
  'GET /api/pages': async () =>
    success(
      (await listPages(blog.database)).map((one) => ({
        ...one,
        updatedAt: one.updatedAt.toISOString(),
        address: addressFor(blog, 'page', one.path)?.path ?? null,
      })),
    ),
  'GET /api/page': ({ query }) => readPage(blog, query.path),
  'POST /api/pages': async ({ body }) =>
    withPurged(await write(blog, (writing) => createPage(writing, body))),
  'PUT /api/page': async ({ query: { path }, body: { version, ...parts } }) =>
    withPurged(await write(blog, (writing) => savePage(writing, { path, version }, parts))),
  'POST /api/page/move': async ({ query: { path }, body: { version, ...to } }) =>
    withPurged(await write(blog, (writing) => placePage(writing, { path, version }, to))),
  'POST /api/page/delete': async ({ query: { path }, body: { version } }) =>
    withPurged(await write(blog, (writing) => deletePage(writing, { path, version }))),
  'POST /api/page/preview': ({ body }) => previewPage(blog, body),
})

async function readPage(blog: Ports, path: string) {
  const page = await blog.database.getRepository(PageEntity).findOneBy({ path })
  if (!page) return unknown({ file: pagePath(path), ...ROW_PROBLEMS['row-unknown']('page', path) })
  return success({
    path: page.path,
    version: page.version,
    title: page.title,
    body: page.body,
    inNavigation: page.inNavigation,
    updatedAt: page.updatedAt.toISOString(),
    address: addressFor(blog, 'page', path)?.path ?? null,
    former: await formerSlugsOf(blog.database.manager, 'page', page.id),
  })
}

/** The slug of a new page in its preview. */
const NEW_SLUG = 'new-page'

async function previewPage(blog: Ports, { path, ...parts }: BodyOf<'POST /api/page/preview'>) {
  const { htmlRules } = blog.site.definition
  const change = (writing: Writing): Promise<Outcome<{ path: string }>> =>
    path === null ? createForPreview(writing, parts) : saveForPreview(writing, path, parts)
  const addressOf = (page: { path: string }) => addressFor(blog, 'page', page.path)?.path ?? null
  const preview = await previewAt(blog, change, addressOf)
  const own = sanitizeHtml(markdownForPages(parts.body, htmlRules), htmlRules).html
  return mapValue(preview, ({ value, status, html, policy }) => ({
    path: addressOf(value),
    status,
    html,
    policy,
    wordCount: countWords(plainText(own)),
  }))
}

type Parts = Omit<BodyOf<'POST /api/page/preview'>, 'path'>

async function createForPreview(writing: Writing, parts: Parts) {
  const isTaken = await writing.manager.existsBy(PageEntity, { path: NEW_SLUG })
  return await createPage(writing, { ...parts, slug: isTaken ? `${NEW_SLUG}-${Date.now()}` : NEW_SLUG })
}

async function saveForPreview(writing: Writing, path: string, parts: Parts) {
  const page = await writing.manager.findOneBy(PageEntity, { path })
  return await savePage(writing, { path, version: page?.version ?? 0 }, parts)
}
