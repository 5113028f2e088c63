/** A page as a Markdown file with front matter. */
import { readMatter, writeMatter } from '../../../core/content/front-matter.ts'
import { refused, success, type Outcome } from '../../../core/shapes/outcome.ts'
import type { Problem } from '../../../core/shapes/problem.ts'
import { PageMatter } from '../../../core/shapes/content-schemas.ts'
import type { DataSource, EntityManager } from 'typeorm'
import { PageEntity } from '../../store/entities/content.ts'
import { textProblem } from '../posts/post-file.ts'
import { ROW_PROBLEMS } from '../problems.ts'

export interface PageParts {
  title: string
  body: string
  inNavigation: boolean
}

export const pagePath = (path: string) => `content/pages/${path}.md`

/** Returns the problems of a page's title and text. */
export function pageProblems(path: string, { title, body }: PageParts): Problem[] {
  const file = pagePath(path)
  const problem = textProblem(body)
  return [
    ...(title.trim() === '' ? [{ file, path: '/title', ...ROW_PROBLEMS['title-empty']() }] : []),
    ...(problem ? [{ file, path: '/body', ...problem }] : []),
  ]
}

export interface PageFile {
  parts: PageParts
  /** The position among its siblings, if the file gives one. */
  position: number | undefined
}

export function readPageFile(path: string, text: string): Outcome<PageFile> {
  const read = readMatter(pagePath(path), text, PageMatter)
  if (!read.ok) return read
  const { title, navigation = false, position } = read.matter
  const parts = { title, body: read.body, inNavigation: navigation }
  const problems = pageProblems(path, parts)
  return problems.length > 0 ? refused(...problems) : success({ parts, position })
}

/** Returns a stored page as a file. */
export async function pageFile(
  database: DataSource | EntityManager,
  path: string,
): Promise<{ text: string; version: number } | undefined> {
  const page = await database.getRepository(PageEntity).findOneBy({ path })
  if (!page) return undefined
  const matter = { title: page.title, position: page.position, navigation: page.inNavigation }
  return { text: writeMatter(matter, page.body), version: page.version }
}
