/** Imports a definition folder: validates all of it first, then writes all of it in one transaction. */
import type { DataSource, EntityManager } from 'typeorm'
import { readDefinition } from '../../../core/blog/read.ts'
import { renderText } from '../../jobs/texts.ts'
import { pipelineOf } from '../../../core/content/html/markdown.ts'
import type { HtmlRules } from '../../../core/content/html/allow-list.ts'
import { documentKind } from '../../../core/shapes/documents.ts'
import { refused, success, type Outcome } from '../../../core/shapes/outcome.ts'
import { DEFAULT_SLUG_RULES } from '../../../core/slugs/slug.ts'
import { analyseContent } from '../../store/content/texts.ts'
import {
  AuthorEntity,
  CategoryEntity,
  ImageEntity,
  PageEntity,
  TagEntity,
} from '../../store/entities/content.ts'
import { insertComments } from '../comments/comment-files.ts'
import { storedCursorKey } from '../../reader/secret.ts'
import { DocumentEntity } from '../../store/entities/definition.ts'
import { Unit } from '../../store/store.ts'
import { postColumns, writePost } from '../posts/stored-post.ts'
import { loadNames, type ContentNames } from '../references.ts'
import { setSearchLanguage } from '../texts/search-words.ts'
import type { DefinitionFolder } from './definition-folder.ts'
import { readContent, type FolderContent, type FolderPage } from './folder-content.ts'

/** How many rows of each kind were imported. */
export type ImportCounts = Record<string, number>

/**
 * Imports into an empty database.
 * @param now the day to which relative times in the folder (`-3 days 09:30`) refer
 */
export async function importFolder(
  database: DataSource,
  folder: DefinitionFolder,
  now: Date,
): Promise<Outcome<ImportCounts>> {
  const documents = new Map([...folder.texts].filter(([path]) => !path.startsWith('content/')))
  const definition = readDefinition(documents)
  // Without a valid definition the content is still read, so that all problems are reported at once.
  const rules = definition.ok ? definition.value : { timeZone: 'UTC', slugRules: DEFAULT_SLUG_RULES }
  const { content, problems } = await readContent(folder, now, rules)
  if (!definition.ok) return refused(...definition.problems, ...problems)
  if (problems.length > 0) return refused(...problems)
  const { settings, htmlRules, timeZone } = definition.value
  const unit = new Unit(database.manager)
  const result = await unit.attempt(async ({ manager }): Promise<Outcome<ImportCounts>> => {
    await manager.insert(
      DocumentEntity,
      [...documents]
        .filter(([path]) => documentKind(path) !== undefined)
        .map(([path, text]) => ({ path, text })),
    )
    await setSearchLanguage(manager, settings.language)
    const inserted = await insertContent(manager, content, htmlRules)
    if (!inserted.ok) return inserted
    await insertComments(manager, { cursorKey: await storedCursorKey(database) }, content.comments, {
      posts: inserted.value,
      now,
      timeZone,
    })
    return success({
      documents: documents.size,
      posts: content.posts.length,
      pages: content.pages.length,
      categories: content.categories.length,
      tags: content.tags.length,
      authors: content.authors.length,
      comments: content.comments.length,
      images: content.images.length,
    })
  })
  // The planner should know the sizes of the tables from the first request on.
  if (result.ok) await analyseContent(database)
  return result
}

/** Inserts everything except comments. @returns the ids of the posts, by slug */
export async function insertContent(
  manager: EntityManager,
  content: FolderContent,
  rules: HtmlRules,
): Promise<Outcome<Map<string, number>>> {
  await insertTerms(manager, content)
  await manager.insert(ImageEntity, content.images)
  const names = await loadNames(manager, rules)
  const ids = new Map<string, number>()
  for (const post of content.posts) {
    const columns = await postColumns(post, names)
    if (!columns.ok) return columns
    ids.set(post.slug, (await writePost(manager, columns.value)).id)
  }
  await insertPages(manager, content.pages, names)
  return success(ids)
}

async function insertTerms(
  manager: EntityManager,
  { categories, tags, authors }: FolderContent,
): Promise<void> {
  await manager.insert(
    CategoryEntity,
    categories.map(({ name, slug }, position) => ({ name, slug, position })),
  )
  for (const { slug, parent } of categories) {
    if (parent === undefined) continue
    const { id: parentId } = await manager.findOneByOrFail(CategoryEntity, { slug: parent })
    await manager.update(CategoryEntity, { slug }, { parentId })
  }
  await manager.insert(TagEntity, tags)
  await manager.insert(
    AuthorEntity,
    authors.map(({ about = '', ...author }) => ({ ...author, about })),
  )
}

/** Inserts parents before children, so that every page finds its parent. */
async function insertPages(
  manager: EntityManager,
  pages: readonly FolderPage[],
  { sizeOf, rules }: Pick<ContentNames, 'sizeOf' | 'rules'>,
): Promise<void> {
  const ids = new Map<string, number>()
  for (const { path, matter, body } of [...pages].sort((a, b) => a.path.length - b.path.length)) {
    const parts = path.split('/')
    const inserted = await manager.insert(PageEntity, {
      path,
      slug: parts.at(-1) ?? path,
      parentId: ids.get(parts.slice(0, -1).join('/')) ?? null,
      title: matter.title,
      body,
      html: (await renderText(body, rules, sizeOf)).html,
      pipeline: pipelineOf(rules),
      position: matter.position ?? 0,
      inNavigation: matter.navigation ?? false,
    })
    ids.set(path, (inserted.identifiers[0] as { id: number }).id)
  }
}
