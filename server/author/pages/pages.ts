/** Pages: a tree of texts, each at the path of its slugs. Listed, made, saved, moved, deleted with what is below. */
import type { DataSource, EntityManager } from 'typeorm'
import type { Change } from '../../../core/caching/purge.ts'
import type { HtmlRules } from '../../../core/content/html/allow-list.ts'
import { readMatter, writeMatter } from '../../../core/content/front-matter.ts'
import { pipelineOf, renderMarkdown } from '../../../core/content/html/markdown.ts'
import { countWords, plainText } from '../../../core/content/text.ts'
import type { Problem } from '../../../core/shapes/problem.ts'
import { PageMatter } from '../../../core/shapes/schemas.ts'
import { freeSlug, slugFault, slugOf } from '../../../core/slugs/slug.ts'
import type { Blog } from '../../reader/blog.ts'
import { PageEntity } from '../../store/entities/content.ts'
import { putInBin } from '../deleted/bin.ts'
import { POST_LIMIT } from '../posts/posts.ts'
import { loadImageSizes } from '../texts/image-sizes.ts'
import { forgetSlug, movePage } from '../slugs/slugs.ts'
import { isUniqueViolation } from '../../store/slugs.ts'

export interface ListedPage {
  path: string
  title: string
  slug: string
  /** Path of the page it is below. */
  parent: string | null
  /** How many pages it is below. */
  depth: number
  inNavigation: boolean
  version: number
  updatedAt: Date
  wordCount: number
}

/** All pages, each before those below it, in the order of their places. */
export async function listPages(database: DataSource | EntityManager): Promise<ListedPage[]> {
  const rows = await database.query<(Omit<ListedPage, 'wordCount'> & { html: string })[]>(
    `WITH RECURSIVE tree AS (
       SELECT page.*, 0 AS depth, NULL::text AS parent, ARRAY[position, id] AS place FROM page WHERE parent_id IS NULL
       UNION ALL SELECT child.*, tree.depth + 1, tree.path, tree.place || child.position || child.id
       FROM page child JOIN tree ON child.parent_id = tree.id)
     SELECT path, title, slug, parent, depth, in_navigation AS "inNavigation", version, updated_at AS "updatedAt", html
     FROM tree ORDER BY place`,
  )
  return rows.map(({ html, ...page }) => ({ ...page, wordCount: countWords(plainText(html)) }))
}

export interface PageParts {
  title: string
  body: string
  inNavigation: boolean
}

export interface PageRef {
  path: string
  version: number
}

interface Refused {
  outcome: 'problems'
  problems: Problem[]
}
export type PageResult =
  | { outcome: 'saved'; path: string; version: number; purged: string[]; former: string[] }
  | Refused
  | { outcome: 'conflict'; version: number }
  | { outcome: 'unknown' }

const pageFilePath = (path: string) => `content/pages/${path}.md`
const problem = (path: string, field: string, message: string): Refused => ({
  outcome: 'problems',
  problems: [{ file: pageFilePath(path), path: field, message }],
})

function wrongIn(path: string, { title, body }: PageParts): Refused | undefined {
  if (title.trim() === '') return problem(path, '/title', 'the title is empty')
  if (body.length > POST_LIMIT)
    return problem(path, '/body', `the text is longer than ${POST_LIMIT} characters`)
  return body.includes('\0') ? problem(path, '/body', 'the text contains a null character') : undefined
}

/** Columns of a page's text: rendered once, at the save. */
async function textColumns(
  manager: EntityManager,
  { title, body, inNavigation }: PageParts,
  rules: HtmlRules,
) {
  const html = renderMarkdown(body, { rules, sizeOf: await loadImageSizes(manager) }).html
  return { title, body, html, pipeline: pipelineOf(rules), inNavigation }
}

/** Makes a page, the last below its parent. Without a slug it gets a free one, made of its title. */
export async function createPage(
  blog: Blog,
  parts: PageParts & { slug?: string | undefined; parent?: string | null | undefined },
): Promise<PageResult> {
  const { slugRules, htmlRules } = blog.site.definition
  const wrong = wrongIn(parts.slug ?? 'a-new-page', parts)
  if (wrong) return wrong
  try {
    const made = await blog.database.transaction(
      async (manager): Promise<PageResult & { change?: Change }> => {
        // One at a time in the tree, so that a free slug stays free until it is taken.
        await manager.query('LOCK TABLE page IN SHARE ROW EXCLUSIVE MODE')
        const parent = await parentOf(manager, parts.parent ?? null)
        if (parent === undefined)
          return problem('a-new-page', '/parent', `there is no page “${parts.parent ?? ''}”`)
        const below = parent === null ? '' : `${parent.path}/`
        const beside = await manager.query<{ slug: string; position: number }[]>(
          'SELECT slug, position FROM page WHERE parent_id IS NOT DISTINCT FROM $1',
          [parent?.id ?? null],
        )
        const taken = new Set(beside.map((one) => one.slug))
        const made = slugOf(parts.title, slugRules.maximum)
        const slug =
          parts.slug ??
          (made === ''
            ? ''
            : freeSlug(made, (one) => taken.has(one) || slugRules.reserved.has(one), slugRules.maximum))
        if (slug === '')
          return problem('a-new-page', '/slug', 'no slug can be made from this title; write one')
        const fault = slugFault(slug, slugRules)
        if (fault !== undefined) return problem(slug, '/slug', fault)
        if (taken.has(slug)) return problem(slug, '/slug', `another page has the path “${below}${slug}”`)
        const path = below + slug
        const position = beside.reduce((last, one) => Math.max(last, one.position), -1) + 1
        const columns = await textColumns(manager, parts, htmlRules)
        const inserted = await manager.insert(PageEntity, {
          ...columns,
          path,
          slug,
          parentId: parent?.id ?? null,
          position,
        })
        await forgetSlug(manager, 'page', path)
        const { id } = inserted.identifiers[0] as { id: number }
        return {
          outcome: 'saved',
          path,
          version: 1,
          purged: [],
          former: [],
          change: { source: 'pages', id, before: null, after: { path, title: parts.title } },
        }
      },
    )
    return told(blog, made)
  } catch (error) {
    if (isUniqueViolation(error)) return problem(parts.slug ?? '', '/slug', 'another page has this path')
    throw error
  }
}

/** Saves a page's title and text; its place and path are changed by `placePage`. */
export async function savePage(blog: Blog, ref: PageRef, parts: PageParts): Promise<PageResult> {
  const wrong = wrongIn(ref.path, parts)
  if (wrong) return wrong
  const saved = await blog.database.transaction((manager) =>
    writePage(manager, ref, parts, blog.site.definition.htmlRules),
  )
  return told(blog, saved)
}

/** The save itself, in a transaction of the caller's. */
export async function writePage(
  manager: EntityManager,
  ref: PageRef,
  parts: PageParts,
  rules: HtmlRules,
): Promise<PageResult & { change?: Change }> {
  const found = await lockPage(manager, ref)
  if (found.outcome !== 'found') return found
  const { page } = found
  const columns = await textColumns(manager, parts, rules)
  await manager.update(
    PageEntity,
    { id: page.id },
    { ...columns, version: page.version + 1, updatedAt: () => 'now()' },
  )
  return {
    outcome: 'saved',
    path: page.path,
    version: page.version + 1,
    purged: [],
    former: [],
    change: {
      source: 'pages',
      id: page.id,
      before: { title: page.title, html: page.html, inNavigation: page.inNavigation },
      after: { title: columns.title, html: columns.html, inNavigation: columns.inNavigation },
    },
  }
}

/** The file of a stored page: front matter and Markdown. */
export async function pageFile(
  database: DataSource,
  path: string,
): Promise<{ text: string; version: number } | undefined> {
  const page = await database.getRepository(PageEntity).findOneBy({ path })
  if (!page) return undefined
  const matter = { title: page.title, position: page.position, navigation: page.inNavigation }
  return { text: writeMatter(matter, page.body), version: page.version }
}

/** What is wrong with a page as a file, or its parts. */
export function readPageFile(
  path: string,
  text: string,
): { ok: true; parts: PageParts; position: number | undefined } | { ok: false; problems: Problem[] } {
  const read = readMatter(pageFilePath(path), text, PageMatter)
  if (!read.ok) return read
  const { title, navigation = false, position } = read.matter
  const parts = { title, body: read.body, inNavigation: navigation }
  const wrong = wrongIn(path, parts)
  return wrong ? { ok: false, problems: wrong.problems } : { ok: true, parts, position }
}

/** Saves a page from its file. */
export async function savePageFile(blog: Blog, ref: PageRef, text: string): Promise<PageResult> {
  const read = readPageFile(ref.path, text)
  if (!read.ok) return { outcome: 'problems', problems: read.problems }
  const saved = await blog.database.transaction(async (manager) => {
    const written = await writePage(manager, ref, read.parts, blog.site.definition.htmlRules)
    if (written.outcome !== 'saved' || read.position === undefined || !written.change) return written
    await manager.update(PageEntity, { path: ref.path }, { position: read.position })
    const { change } = written
    return { ...written, change: { ...change, after: { ...change.after, position: read.position } } }
  })
  return told(blog, saved)
}

/**
 * Puts a page, with those below it, somewhere else in the tree, or gives it another slug; old addresses lead on.
 * @param to `before`: path of the page it comes before; null for last
 */
export async function placePage(
  blog: Blog,
  ref: PageRef,
  to: { parent: string | null; before: string | null; slug?: string | undefined },
): Promise<PageResult> {
  try {
    const result = await blog.database.transaction(
      async (manager): Promise<PageResult & { changes?: Change[] }> => {
        await manager.query('LOCK TABLE page IN SHARE ROW EXCLUSIVE MODE')
        const found = await lockPage(manager, ref)
        if (found.outcome !== 'found') return found
        const { page } = found
        const slug = to.slug ?? page.slug
        const fault = slug === page.slug ? undefined : slugFault(slug, blog.site.definition.slugRules)
        if (fault !== undefined) return problem(ref.path, '/slug', fault)
        const wanted = to.parent === null ? slug : `${to.parent}/${slug}`
        const moved = await movePage(manager, page.path, wanted)
        if (moved.outcome === 'unknown') return moved
        if (moved.outcome === 'refused') return problem(ref.path, '/path', moved.message)
        const changes = [...moved.changes]
        // Read after the move: the page may have come to stand before one of its old neighbours.
        const beside = await manager.query<{ id: number; path: string; position: number }[]>(
          `SELECT id, path, position FROM page
           WHERE parent_id IS NOT DISTINCT FROM (SELECT parent_id FROM page WHERE id = $1) ORDER BY position, id`,
          [page.id],
        )
        const others = beside.filter((one) => one.id !== page.id)
        const at = to.before === null ? others.length : others.findIndex((one) => one.path === to.before)
        if (at === -1)
          return problem(
            ref.path,
            '/before',
            `“${to.before ?? ''}” is not there; the order has changed meanwhile`,
          )
        const own = beside.find((one) => one.id === page.id)
        const order = own ? [...others.slice(0, at), own, ...others.slice(at)] : others
        for (const [position, one] of order.entries()) {
          if (one.position === position) continue
          await manager.query('UPDATE page SET position = $1 WHERE id = $2', [position, one.id])
          changes.push({
            source: 'pages',
            id: one.id,
            before: { position: one.position },
            after: { position },
          })
        }
        // A move by `movePage` counted already; one among its neighbours counts here.
        const isMoved = moved.changes.length > 0
        if (!isMoved && changes.length > 0)
          await manager.query('UPDATE page SET version = version + 1 WHERE id = $1', [page.id])
        return {
          outcome: 'saved',
          path: wanted,
          version: page.version + (changes.length > 0 ? 1 : 0),
          purged: [],
          former: moved.former,
          changes,
        }
      },
    )
    return told(blog, result)
  } catch (error) {
    if (isUniqueViolation(error)) return problem(ref.path, '/slug', 'another page has this path')
    throw error
  }
}

export type PageDeletion =
  | { outcome: 'deleted'; deleted: number; title: string; pages: number }
  | Exclude<PageResult, { outcome: 'saved' }>

/** Deletes a page with those below it; all of them can be put back. */
export async function deletePage(blog: Blog, ref: PageRef): Promise<PageDeletion> {
  const result = await blog.database.transaction(
    async (manager): Promise<PageDeletion & { changes?: Change[] }> => {
      await manager.query('LOCK TABLE page IN SHARE ROW EXCLUSIVE MODE')
      const found = await lockPage(manager, ref)
      if (found.outcome !== 'found') return found
      const { page } = found
      const subtree = await manager.query<{ id: number; path: string }[]>(
        'SELECT id, path FROM page WHERE path = $1 OR starts_with(path, $2)',
        [page.path, `${page.path}/`],
      )
      const values = subtree.map((one) => one.id)
      const deleted = await putInBin(manager, {
        kind: 'page',
        name: page.path,
        title: page.title,
        going: [
          { table: 'page', column: 'id', values },
          { table: 'former_slug', column: 'page_id', values },
        ],
      })
      return {
        outcome: 'deleted',
        deleted,
        title: page.title,
        pages: values.length,
        changes: subtree.map(({ id, path }) => ({ source: 'pages', id, before: { path }, after: null })),
      }
    },
  )
  const { changes = [], ...answer } = result as PageDeletion & { changes?: Change[] }
  for (const change of changes) blog.changed(change)
  return answer
}

async function lockPage(
  manager: EntityManager,
  { path, version }: PageRef,
): Promise<
  { outcome: 'found'; page: PageEntity } | { outcome: 'unknown' } | { outcome: 'conflict'; version: number }
> {
  await manager.query('SELECT 1 FROM page WHERE path = $1 FOR UPDATE', [path])
  const page = await manager.findOneBy(PageEntity, { path })
  if (!page) return { outcome: 'unknown' }
  return page.version === version
    ? { outcome: 'found', page }
    : { outcome: 'conflict', version: page.version }
}

async function parentOf(
  manager: EntityManager,
  path: string | null,
): Promise<{ id: number; path: string } | null | undefined> {
  if (path === null) return null
  const [row] = await manager.query<{ id: number; path: string }[]>(
    'SELECT id, path FROM page WHERE path = $1',
    [path],
  )
  return row
}

/** Once it is committed, the copies that readers get are told. */
function told(
  blog: Blog,
  { change, changes = [], ...result }: PageResult & { change?: Change; changes?: Change[] },
): PageResult {
  const purged = [...(change ? [change] : []), ...changes].flatMap((one) => blog.changed(one).dropped)
  return result.outcome === 'saved' ? { ...result, purged: [...new Set(purged)] } : result
}
