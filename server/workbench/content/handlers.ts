/** What the operations on pages, terms, images, deleted rows and the list of HTML do. */
import {
  ALLOWED_SCHEMES,
  droppedBy,
  sanitizeHtml,
  type HtmlRules,
} from '../../../core/content/html/allow-list.ts'
import { ALLOWED_ELEMENTS } from '../../../core/shapes/html-elements.ts'
import { markdownForPages } from '../../../core/content/html/markdown.ts'
import { countWords, plainText } from '../../../core/content/text.ts'
import { setHtmlRule } from '../../../core/blog/edit.ts'
import type { Problem } from '../../../core/shapes/problem.ts'
import type { Blog } from '../../reader/blog.ts'
import { listBin, restoreFromBin } from '../../author/deleted/bin.ts'
import { saveDocument } from '../../author/documents/documents.ts'
import { addImage, deleteImage, listImages, tellOfImage } from '../../author/images/image-actions.ts'
import {
  createPage,
  deletePage,
  listPages,
  placePage,
  savePage,
  writePage,
  type PageResult,
} from '../../author/pages/pages.ts'
import { loadImageSizes } from '../../author/texts/image-sizes.ts'
import { createTerm, listTerms, placeCategory, saveTerm, type TermResult } from '../../author/terms/terms.ts'
import type { TermKind } from '../../../core/shapes/content-kinds.ts'
import { removeTerm } from '../../author/terms/term-removal.ts'
import { PageEntity } from '../../store/entities/content.ts'
import { DocumentEntity } from '../../store/entities/definition.ts'
import type { AnswerOf } from '../../../contract/operations.ts'
import type { contentOperations } from '../../../contract/content.ts'
import type { HandlersOf } from '../http/handlers-of.ts'
import { previewAt } from '../../probes/preview.ts'
import { Refusal } from '../http/refusal.ts'
import { addressFor } from '../../reader/addresses/slug-address.ts'

export function contentHandlers(blog: Blog): HandlersOf<typeof contentOperations> {
  const { database } = blog
  const terms = async (kind: TermKind) =>
    (await listTerms(database, kind)).map((one) => ({
      ...one,
      address: addressFor(blog, kind, one.slug)?.path ?? null,
    }))
  const term = async (kind: TermKind, slug: string) => {
    const found = (await terms(kind)).find((one) => one.slug === slug)
    if (!found) throw new Refusal({ status: 404, title: `There is no ${kind} “${slug}”` })
    return found
  }
  const savedTerm = (kind: TermKind, slug: string, result: TermResult) => {
    if (result.outcome !== 'saved') throw refusalOf(kind, slug, result)
    return { slug: result.slug, version: result.version, purged: result.purged }
  }
  return {
    'GET /api/content': async () => {
      const count = (table: string) => `(SELECT count(*)::int FROM ${table})`
      const [row] = await database.query<AnswerOf<'GET /api/content'>[]>(
        `SELECT ${count('post')} AS posts, ${count('page')} AS pages, ${count('category')} AS categories,
           ${count('tag')} AS tags, ${count('author')} AS authors, ${count('image')} AS images`,
      )
      return row ?? { posts: 0, pages: 0, categories: 0, tags: 0, authors: 0, images: 0 }
    },
    'GET /api/terms': ({ query }) => terms(query.kind),
    'GET /api/term': ({ query }) => term(query.kind, query.slug),
    'POST /api/terms': async ({ body: { kind, ...parts } }) =>
      savedTerm(kind, parts.slug ?? '', await createTerm(blog, kind, parts)),
    'PUT /api/term': async ({ query: { kind, slug }, body: { version, ...parts } }) =>
      savedTerm(kind, slug, await saveTerm(blog, kind, { slug, version }, parts)),
    'POST /api/category/place': async ({ query: { slug }, body: { version, ...to } }) =>
      savedTerm('category', slug, await placeCategory(blog, { slug, version }, to)),
    'POST /api/term/delete': async ({ query: { kind, slug }, body }) => {
      const { version, into = null, evenIfUsed = false } = body
      const result = await removeTerm(blog, kind, { slug, version }, { into, evenIfUsed })
      if (result.outcome === 'in-use')
        throw new Refusal({
          status: 422,
          title: `${result.posts === 1 ? 'One post has' : `${result.posts} posts have`} this ${kind}`,
          detail: `Say what becomes of them: merge it “into” another ${kind}, or delete it “evenIfUsed”.`,
        })
      if (result.outcome !== 'deleted') throw refusalOf(kind, slug, result)
      return { deleted: result.deleted, title: result.name, count: result.posts }
    },
    'GET /api/pages': async () =>
      (await listPages(database)).map((one) => ({
        ...one,
        updatedAt: one.updatedAt.toISOString(),
        address: addressFor(blog, 'page', one.path)?.path ?? null,
      })),
    'GET /api/page': ({ query }) => readPage(blog, query.path),
    'POST /api/pages': async ({ body }) => savedPage(blog, body.slug ?? '', await createPage(blog, body)),
    'PUT /api/page': async ({ query: { path }, body: { version, ...parts } }) =>
      await savedPage(blog, path, await savePage(blog, { path, version }, parts)),
    'POST /api/page/place': async ({ query: { path }, body: { version, ...to } }) =>
      await savedPage(blog, path, await placePage(blog, { path, version }, to)),
    'POST /api/page/delete': async ({ query: { path }, body: { version } }) => {
      const result = await deletePage(blog, { path, version })
      if (result.outcome !== 'deleted') throw refusalOf('page', path, result)
      return { deleted: result.deleted, title: result.title, count: result.pages }
    },
    'POST /api/page/preview': ({ body: { path, ...parts } }) => previewPage(blog, path, parts),
    'GET /api/images': async () =>
      (await listImages(database)).map((one) => ({
        ...one,
        addedAt: one.addedAt.toISOString(),
        address: `/media/${one.name}`,
      })),
    'PUT /api/image': async ({ query: { file, replaces }, body }) => {
      const result = await addImage(blog, file, Buffer.from(body), replaces)
      if (result.outcome === 'unknown')
        throw new Refusal({ status: 404, title: `There is no image “${replaces ?? ''}”` })
      if (result.outcome === 'refused') throw notTaken(result.problem)
      return result
    },
    'DELETE /api/image': async ({ query: { name } }) => {
      const result = await deleteImage(blog, name)
      if (result.outcome === 'unknown')
        throw new Refusal({ status: 404, title: `There is no image “${name}”` })
      return { deleted: result.deleted }
    },
    'GET /api/deleted': async ({ query }) =>
      (await listBin(database, query.kind)).map((one) => ({
        ...one,
        deletedAt: one.deletedAt.toISOString(),
      })),
    'POST /api/deleted/restore': async ({ body }) => {
      const result = await restoreFromBin(blog, body.deleted)
      if (result.outcome === 'unknown')
        throw new Refusal({ status: 404, title: 'This cannot be put back any more' })
      if (result.outcome === 'refused')
        throw new Refusal({ status: 409, title: 'Not put back', detail: result.message })
      if (result.kind === 'image') await tellOfImage(blog, result.name, null)
      return { kind: result.kind, name: result.name }
    },
    'GET /api/html': async () => {
      const { htmlRules } = blog.site.definition
      const [settings, used] = await Promise.all([
        database.getRepository(DocumentEntity).findOneBy({ path: 'blog.yaml' }),
        database.query<{ name: string; texts: number }[]>(
          `SELECT found[1] AS name, count(DISTINCT source || id)::int AS texts
           FROM ((SELECT 'post' AS source, id, html FROM post ORDER BY id DESC LIMIT ${LOOKED_AT})
             UNION ALL (SELECT 'page', id, html FROM page ORDER BY id DESC LIMIT ${LOOKED_AT})) stored,
             regexp_matches(html, '<([a-z][a-z0-9]*)[ >]', 'g') found GROUP BY found[1]`,
        ),
      ])
      const texts = new Map(used.map((one) => [one.name, one.texts]))
      return {
        elements: ALLOWED_ELEMENTS.map((one) => ({
          ...one,
          attributes: [...one.attributes],
          texts: texts.get(one.name) ?? 0,
        })),
        schemes: [...ALLOWED_SCHEMES],
        lookedAt: LOOKED_AT,
        rule: { typed: htmlRules.typed, without: [...htmlRules.without] },
        version: settings?.version ?? 0,
      }
    },
    'PUT /api/html': async ({ body: { version, rule } }) => {
      const settings = await database.getRepository(DocumentEntity).findOneByOrFail({ path: 'blog.yaml' })
      const text = setHtmlRule(settings.text, rule)
      if (text === undefined)
        throw new Refusal({
          status: 422,
          title: 'Not saved',
          detail: 'blog.yaml cannot be changed by a form; edit it',
        })
      const result = await saveDocument(blog, 'blog.yaml', text, version)
      if (result.outcome === 'saved') return { version: result.version }
      if (result.outcome === 'problems') throw notValid(result.problems)
      throw new Refusal({
        status: 409,
        title: 'Somebody else saved blog.yaml meanwhile',
        detail: 'Nothing was saved; look at the list as it is now and change it again.',
      })
    },
    'POST /api/html/try': async ({ body: { text, rule } }) => {
      const rules: HtmlRules = { typed: rule.typed, without: new Set(rule.without) }
      const before = markdownForPages(text, rules)
      const { html } = sanitizeHtml(before, rules, await loadImageSizes(database))
      return { html, dropped: droppedBy(before, html), words: countWords(plainText(html)) }
    },
  }
}

/** Texts of each kind in which elements are counted: the newest. */
const LOOKED_AT = 5_000

const notValid = (problems: readonly Problem[]) =>
  new Refusal({
    status: 422,
    title: 'Not saved: the last good version keeps running',
    problems: problems.map((one) => ({ ...one })),
  })

const notTaken = (problem: Problem) =>
  new Refusal({
    status: 422,
    title: `Not taken: ${problem.message}`,
    ...(problem.hint === undefined ? {} : { detail: problem.hint }),
    problems: [{ ...problem }],
  })

type Failed =
  | { outcome: 'problems'; problems: Problem[] }
  | { outcome: 'conflict'; version: number }
  | { outcome: 'unknown' }

function refusalOf(kind: string, name: string, result: Failed, text?: string): Refusal {
  if (result.outcome === 'problems') return notValid(result.problems)
  if (result.outcome === 'unknown')
    return new Refusal({ status: 404, title: `There is no ${kind} “${name}”` })
  return new Refusal({
    status: 409,
    title: 'Somebody else saved this meanwhile',
    detail: 'Look at what is stored now, then change it again.',
    version: result.version,
    ...(text === undefined ? {} : { text }),
  })
}

async function savedPage(blog: Blog, path: string, result: PageResult) {
  if (result.outcome === 'saved') {
    const { path: now, version, purged, former } = result
    return { path: now, version, purged, former }
  }
  const stored =
    result.outcome === 'conflict' ? await blog.database.getRepository(PageEntity).findOneBy({ path }) : null
  throw refusalOf('page', path, result, stored?.body)
}

async function readPage(blog: Blog, path: string) {
  const page = await blog.database.getRepository(PageEntity).findOneBy({ path })
  if (!page) throw new Refusal({ status: 404, title: `There is no page “${path}”` })
  const former = await blog.database.query<{ slug: string }[]>(
    'SELECT slug FROM former_slug WHERE page_id = $1 ORDER BY created_at DESC',
    [page.id],
  )
  return {
    path: page.path,
    version: page.version,
    title: page.title,
    body: page.body,
    inNavigation: page.inNavigation,
    updatedAt: page.updatedAt.toISOString(),
    address: addressFor(blog, 'page', path)?.path ?? null,
    former: former.map((one) => one.slug),
  }
}

/** A new page is shown at a path that nothing has. */
const NEW_PATH = 'a-new-page'

async function previewPage(
  blog: Blog,
  path: string | null,
  parts: { title: string; body: string; inNavigation: boolean },
) {
  const { htmlRules } = blog.site.definition
  let shown = path ?? NEW_PATH
  const { status, html } = await previewAt(
    blog,
    async (manager) => {
      if (path === null) {
        const taken = await manager.existsBy(PageEntity, { path: shown })
        if (taken) shown = `${NEW_PATH}-${Date.now()}`
        await manager.query(
          `INSERT INTO page (title, slug, path, body, html, pipeline) VALUES ($1, $2, $2, '', '', '')`,
          [parts.title, shown],
        )
      }
      const [row] = await manager.query<{ version: number }[]>('SELECT version FROM page WHERE path = $1', [
        shown,
      ])
      const written = await writePage(manager, { path: shown, version: row?.version ?? 0 }, parts, htmlRules)
      if (written.outcome !== 'saved') throw refusalOf('page', shown, written)
    },
    () => addressFor(blog, 'page', shown)?.path ?? null,
  )
  const own = sanitizeHtml(markdownForPages(parts.body, htmlRules), htmlRules).html
  return {
    path: addressFor(blog, 'page', shown)?.path ?? null,
    status,
    html,
    wordCount: countWords(plainText(own)),
  }
}
