/** Imports a definition folder: checks all of it first, then writes all of it in one transaction. */
import type { DataSource, EntityManager } from 'typeorm'
import { readMatter } from '../../../core/content/front-matter.ts'
import { pipelineOf, renderMarkdown } from '../../../core/content/html/markdown.ts'
import { readTime } from '../../../core/content/times.ts'
import { documentKind } from '../../../core/shapes/documents.ts'
import type { Problem } from '../../../core/shapes/problem.ts'
import { readDefinition } from '../../../core/blog/read.ts'
import {
  Authors,
  Categories,
  Comments,
  PageMatter,
  Tags,
  type TSchema,
  type Static,
} from '../../../core/shapes/schemas.ts'
import { checkValue, readYaml } from '../../../core/shapes/yaml.ts'
import {
  AuthorEntity,
  CategoryEntity,
  CommentEntity,
  ImageEntity,
  PageEntity,
  TagEntity,
} from '../../store/entities/content.ts'
import { DocumentEntity } from '../../store/entities/definition.ts'
import type { DefinitionFolder } from './folder.ts'
import { setSearchLanguage } from '../texts/search-words.ts'
import { readImage } from '../images/images.ts'
import {
  loadNames,
  postFields,
  readPostFile,
  writePost,
  type ContentNames,
  type PostFile,
} from '../posts/posts.ts'

export type ImportResult = { ok: true; counts: Record<string, number> } | { ok: false; problems: Problem[] }

interface PageFile {
  path: string
  matter: Static<typeof PageMatter>
  body: string
}

/**
 * Imports into an empty database.
 * @param now relative times in the folder (`-3 days 09:30`) are counted from here
 */
export async function importFolder(
  database: DataSource,
  folder: DefinitionFolder,
  now: Date,
): Promise<ImportResult> {
  const problems: Problem[] = []
  const documents = new Map([...folder.texts].filter(([path]) => !path.startsWith('content/')))
  const definition = readDefinition(documents)
  if (!definition.ok) return definition
  const { timeZone } = definition.definition

  const list = <S extends TSchema>(file: string, schema: S): Static<S> | [] => {
    const text = folder.texts.get(file)
    if (text === undefined) return []
    const result = readYaml(file, text, schema)
    if (result.ok) return result.value
    problems.push(...result.problems)
    return []
  }
  const categories = list('content/categories.yaml', Categories)
  const tags = list('content/tags.yaml', Tags)
  const authors = list('content/authors.yaml', Authors)
  const comments = readComments(folder, problems)

  const posts: PostFile[] = []
  const pages: PageFile[] = []
  for (const [path, text] of folder.texts) {
    if (path.startsWith('content/posts/') && path.endsWith('.md')) {
      const post = readPostFile(path, text, now, definition.definition)
      if (post.ok) posts.push(post.post)
      else problems.push(...post.problems)
    } else if (path.startsWith('content/pages/') && path.endsWith('.md')) {
      const page = readMatter(path, text, PageMatter)
      if (page.ok)
        pages.push({
          path: path.slice('content/pages/'.length, -'.md'.length),
          matter: page.matter,
          body: page.body,
        })
      else problems.push(...page.problems)
    }
  }
  const images = await Promise.all([...folder.media].map(([name, bytes]) => readImage(name, bytes)))
  for (const [index, image] of images.entries()) {
    const file = `media/${[...folder.media.keys()][index] ?? ''}`
    if (!image.ok) problems.push({ ...image.problem, file })
    // A folder goes in and out without loss: what would be changed is refused, and said.
    else if (file !== `media/${image.image.name}`)
      problems.push({ file, message: `an image with this content is called “${image.image.name}”` })
    else
      for (const { what, line } of image.removed)
        problems.push(
          line === null
            ? {
                file,
                message: `the photograph contains ${what}`,
                hint: 'readers could read it in the file: save it without, or bring it in under Images, where it is taken out',
              }
            : {
                file,
                line,
                message: `the drawing contains ${what}`,
                hint: 'a drawing has shapes only: nothing that runs, loads or embeds',
              },
        )
  }
  const known = { posts: new Set(posts.map((post) => post.slug)) }
  for (const [index, comment] of comments.entries()) {
    const at = `/${index}`
    if (!known.posts.has(comment.post))
      problems.push({
        file: 'content/comments.json',
        path: at,
        message: `there is no post “${comment.post}”`,
      })
    if (!readTime(comment.at, now, timeZone))
      problems.push({ file: 'content/comments.json', path: at, message: `“${comment.at}” is no time` })
  }
  if (problems.length > 0) return { ok: false, problems }

  const result = await database
    .transaction(async (manager) => {
      await manager.insert(
        DocumentEntity,
        [...documents]
          .filter(([path]) => documentKind(path) !== undefined)
          .map(([path, text]) => ({ path, text })),
      )
      await manager.insert(
        CategoryEntity,
        categories.map(({ name, slug }, position) => ({ name, slug, position })),
      )
      for (const { slug, parent } of categories) {
        if (parent !== undefined)
          await manager.update(
            CategoryEntity,
            { slug },
            { parentId: (await manager.findOneByOrFail(CategoryEntity, { slug: parent })).id },
          )
      }
      await manager.insert(TagEntity, tags)
      await manager.insert(
        AuthorEntity,
        authors.map(({ about = '', ...author }) => ({ ...author, about })),
      )
      await manager.insert(
        ImageEntity,
        images.flatMap((image) => (image.ok ? [image.image] : [])),
      )
      await setSearchLanguage(manager, definition.definition.settings.language)
      const names = await loadNames(manager, definition.definition.htmlRules)
      const ids = new Map<string, number>()
      for (const post of posts) {
        const fields = postFields(post, names)
        if (!fields.ok) {
          problems.push(...fields.problems)
          continue
        }
        ids.set(post.slug, (await writePost(manager, fields.fields, undefined)).id)
      }
      if (problems.length > 0) throw new ImportRefused(problems)
      await insertPages(manager, pages, names)
      await manager.insert(
        CommentEntity,
        comments.map(({ post, name, text, at }) => ({
          postId: ids.get(post) ?? 0,
          name,
          text,
          createdAt: readTime(at, now, timeZone) ?? now,
        })),
      )
      const counts = {
        documents: documents.size,
        posts: posts.length,
        pages: pages.length,
        categories: categories.length,
        tags: tags.length,
        authors: authors.length,
        comments: comments.length,
        images: images.length,
      }
      return { ok: true as const, counts }
    })
    .catch((error: unknown): ImportResult => {
      if (error instanceof ImportRefused) return { ok: false, problems: error.problems }
      throw error
    })
  // The planner should know the tables' sizes from the first request on.
  if (result.ok) await database.query('ANALYZE post, page, category, tag, post_tag, author, comment, image')
  return result
}

/** Rolls the transaction back. */
class ImportRefused extends Error {
  constructor(readonly problems: Problem[]) {
    super('the import was refused')
  }
}

function readComments(folder: DefinitionFolder, problems: Problem[]): Static<typeof Comments> {
  const file = 'content/comments.json'
  const text = folder.texts.get(file)
  if (text === undefined) return []
  let value: unknown
  try {
    value = JSON.parse(text)
  } catch (error) {
    problems.push({ file, message: error instanceof Error ? error.message : String(error) })
    return []
  }
  const found = checkValue(file, value, Comments)
  problems.push(...found)
  return found.length > 0 ? [] : (value as Static<typeof Comments>)
}

/** Parents before children, so that every page finds its parent. */
async function insertPages(
  manager: EntityManager,
  pages: readonly PageFile[],
  { sizeOf, rules }: Pick<ContentNames, 'sizeOf' | 'rules'>,
): Promise<void> {
  const ids = new Map<string, number>()
  for (const { path, matter, body } of [...pages].sort((a, b) => a.path.length - b.path.length)) {
    const parts = path.split('/')
    const parentId = ids.get(parts.slice(0, -1).join('/')) ?? null
    const html = renderMarkdown(body, { rules, sizeOf }).html
    const inserted = await manager.insert(PageEntity, {
      path,
      slug: parts.at(-1) ?? path,
      parentId,
      title: matter.title,
      body,
      html,
      pipeline: pipelineOf(rules),
      position: matter.position ?? 0,
      inNavigation: matter.navigation ?? false,
    })
    ids.set(path, (inserted.identifiers[0] as { id: number }).id)
  }
}
