/** Reads and validates the content of a definition folder, and reports all problems at once. */
import { readMatter } from '../../../core/content/front-matter.ts'

import type { Definition } from '../../../core/blog/definition.ts'
import type { Static, TSchema } from '../../../core/shapes/schemas.ts'
import type { Problem } from '../../../core/shapes/problem.ts'
import { Authors, Categories, Comments, PageMatter, Tags } from '../../../core/shapes/content-schemas.ts'
import { checkValue, readYaml } from '../../../core/shapes/yaml.ts'
import { LOCATION, readImage, type ReadImage } from '../images/images.ts'
import { readPostFile, type PostFile } from '../posts/post-file.ts'
import { commentListProblems } from '../comments/comment-list.ts'
import { FOLDER_PROBLEMS } from '../problems.ts'
import { Names, type ReferenceKind } from '../references.ts'
import type { DefinitionFolder } from './definition-folder.ts'

export interface FolderPage {
  path: string
  matter: Static<typeof PageMatter>
  body: string
}

export interface FolderContent {
  categories: Static<typeof Categories>
  tags: Static<typeof Tags>
  authors: Static<typeof Authors>
  comments: Static<typeof Comments>
  posts: PostFile[]
  pages: FolderPage[]
  images: ReadImage['image'][]
}

const COMMENTS = 'content/comments.json'

export async function readContent(
  folder: DefinitionFolder,
  now: Date,
  definition: Pick<Definition, 'timeZone' | 'slugRules'>,
): Promise<{ content: FolderContent; problems: Problem[] }> {
  const problems: Problem[] = []
  const list = <S extends TSchema>(file: string, schema: S): Static<S> | [] => {
    const text = folder.texts.get(file)
    if (text === undefined) return []
    const result = readYaml(file, text, schema)
    if (result.ok) return result.value
    problems.push(...result.problems)
    return []
  }
  const content: FolderContent = {
    categories: list('content/categories.yaml', Categories),
    tags: list('content/tags.yaml', Tags),
    authors: list('content/authors.yaml', Authors),
    comments: readComments(folder, problems),
    posts: [],
    pages: [],
    images: [],
  }
  for (const [path, text] of folder.texts) {
    if (path.startsWith('content/posts/') && path.endsWith('.md')) {
      const post = readPostFile(path, text, now, definition)
      if (post.ok) content.posts.push(post.value)
      else problems.push(...post.problems)
    } else if (path.startsWith('content/pages/') && path.endsWith('.md')) {
      const page = readMatter(path, text, PageMatter)
      if (page.ok)
        content.pages.push({
          path: path.slice('content/pages/'.length, -'.md'.length),
          matter: page.matter,
          body: page.body,
        })
      else problems.push(...page.problems)
    }
  }
  await readMedia(folder, content, problems)
  problems.push(...referenceProblems(content), ...commentProblems(content, folder, now, definition.timeZone))
  return { content, problems }
}

function readComments(folder: DefinitionFolder, problems: Problem[]): Static<typeof Comments> {
  const text = folder.texts.get(COMMENTS)
  if (text === undefined) return []
  let value: unknown
  try {
    value = JSON.parse(text)
  } catch (error) {
    const reason = error instanceof Error ? error.message : String(error)
    problems.push({ file: COMMENTS, ...FOLDER_PROBLEMS['folder-json-invalid'](`${reason}.`) })
    return []
  }
  const found = checkValue(COMMENTS, value, Comments)
  problems.push(...found)
  return found.length > 0 ? [] : (value as Static<typeof Comments>)
}

/** Reads the images. A folder is imported without changes, so what an upload would change is refused. */
async function readMedia(
  folder: DefinitionFolder,
  content: FolderContent,
  problems: Problem[],
): Promise<void> {
  for (const [name, bytes] of folder.media) {
    const file = `media/${name}`
    const read = await readImage(name, bytes)
    if (!read.ok) {
      problems.push(...read.problems.map((one) => ({ ...one, file })))
      continue
    }
    const { image, removed } = read.value
    content.images.push(image)
    if (name !== image.name) problems.push({ file, ...FOLDER_PROBLEMS['folder-image-renamed'](image.name) })
    else
      for (const { what, line } of removed)
        problems.push(
          line === null
            ? { file, ...FOLDER_PROBLEMS['folder-image-location'](LOCATION) }
            : { file, line, ...FOLDER_PROBLEMS['folder-image-unsafe'](what) },
        )
  }
}

/** Returns the references of posts and categories to something that the folder does not have. */
function referenceProblems({ posts, categories, tags, authors, images }: FolderContent): Problem[] {
  const named = (kind: ReferenceKind, rows: readonly { slug: string; name: string }[]) =>
    new Names(
      kind,
      rows.map((row, id) => ({ ...row, id })),
    )
  const names = {
    category: named('category', categories),
    tag: named('tag', tags),
    author: named('author', authors),
    image: named(
      'image',
      images.map(({ name }) => ({ slug: name, name })),
    ),
  }
  const problems: Problem[] = []
  for (const { file, matter, placeOf } of posts) {
    const check = (kind: ReferenceKind, place: readonly (string | number)[], name: string | undefined) => {
      const found = name === undefined ? undefined : names[kind].find(name)
      if (found && !found.ok)
        problems.push({ file, path: `/${place.join('/')}`, ...placeOf(place), ...found.problem })
    }
    check('category', ['category'], matter.category)
    check('author', ['author'], matter.author)
    check('image', ['image'], matter.image)
    for (const [index, tag] of (matter.tags ?? []).entries()) check('tag', ['tags', index], tag)
  }
  for (const [index, { parent }] of categories.entries()) {
    const found = parent === undefined ? undefined : names.category.find(parent)
    if (found && !found.ok)
      problems.push({ file: 'content/categories.yaml', path: `/${index}/parent`, ...found.problem })
  }
  return problems
}

function commentProblems(
  { posts, comments }: FolderContent,
  folder: DefinitionFolder,
  now: Date,
  timeZone: string,
): Problem[] {
  // A post that could not be read has its problems already.
  const slugs = new Set([
    ...posts.map((post) => post.slug),
    ...[...folder.texts.keys()].map((path) => /^content\/posts\/(.*)\.md$/.exec(path)?.[1] ?? ''),
  ])
  return commentListProblems(comments, slugs, { file: COMMENTS, now, timeZone })
}
