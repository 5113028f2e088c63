/** A post as a Markdown file with front matter: read and validated, and written from a stored post. */
import { readMatter, writeMatter } from '../../../core/content/front-matter.ts'
import { CONTENT_PROBLEMS } from '../../../core/content/problems.ts'
import { invalidTime, readTime } from '../../../core/content/times.ts'
import type { Definition } from '../../../core/blog/definition.ts'
import type { Worded } from '../../../core/shapes/catalogue.ts'
import { refused, success, type Outcome } from '../../../core/shapes/outcome.ts'
import type { Problem } from '../../../core/shapes/problem.ts'
import { PostMatter } from '../../../core/shapes/content-schemas.ts'
import type { PlaceOf } from '../../../core/shapes/yaml.ts'
import { SLUG_PROBLEMS } from '../../../core/slugs/problems.ts'
import { slugOf, slugProblem } from '../../../core/slugs/slug.ts'
import type { PostEntity } from '../../store/entities/content.ts'

/** The maximum length of a text, in characters. */
const TEXT_LIMIT = 500_000

export const postPath = (slug: string) => `content/posts/${slug}.md`

/** A post's front matter and body. */
export interface PostParts {
  matter: PostMatter
  body: string
  /** The place of each key of the front matter, if it was read from a file. */
  placeOf?: PlaceOf
}

/** A valid post that is not yet stored. */
export interface PostFile {
  file: string
  slug: string
  matter: PostMatter
  body: string
  published: Date | null
  placeOf: PlaceOf
}

type Rules = Pick<Definition, 'timeZone' | 'slugRules'>

const nowhere: PlaceOf = () => undefined

/** Returns the problem of a text, if it is too long or cannot be stored. */
export function textProblem(text: string): Worded | undefined {
  if (text.length > TEXT_LIMIT) return CONTENT_PROBLEMS['text-too-long'](TEXT_LIMIT)
  return text.includes('\0') ? CONTENT_PROBLEMS['text-null-character']() : undefined
}

/** Reads a post's file. The slug is that of the front matter, or else the file's name. */
export function readPostFile(file: string, text: string, now: Date, rules: Rules): Outcome<PostFile> {
  const problem = textProblem(text)
  if (problem) return refused({ file, ...problem })
  const read = readMatter(file, text, PostMatter)
  return read.ok ? readPost(file, read, now, rules) : read
}

/**
 * Validates the parts of a post and reports all problems.
 * @param file identifies the post in problems; its name is the slug if the front matter has none
 */
export function readPost(
  file: string,
  { matter, body, placeOf = nowhere }: PostParts,
  now: Date,
  { timeZone, slugRules }: Rules,
): Outcome<PostFile> {
  const problems: Problem[] = []
  const bodyProblem = textProblem(body)
  if (bodyProblem) problems.push({ file, path: '/body', ...bodyProblem })
  const slug = matter.slug ?? slugFromName(file) ?? slugOf(matter.title, slugRules.maximum)
  if (slug === '' && matter.slug === undefined)
    problems.push({
      file,
      path: '/slug',
      ...placeOf(['title']),
      ...SLUG_PROBLEMS['slug-not-derivable']('title'),
    })
  else {
    const problem = slugProblem(slug, slugRules)
    if (problem) problems.push({ file, path: '/slug', ...placeOf(['slug']), ...problem })
  }
  const published = matter.published === undefined ? null : readTime(matter.published, now, timeZone)
  if (published === undefined)
    problems.push({
      file,
      path: '/published',
      ...placeOf(['published']),
      ...invalidTime(matter.published ?? ''),
    })
  return problems.length > 0 || published === undefined
    ? refused(...problems)
    : success({ file, slug, matter, body, published, placeOf })
}

function slugFromName(file: string): string | undefined {
  const name = /([^/]+)\.md$/.exec(file)?.[1] ?? ''
  return /^[a-z0-9]+(-[a-z0-9]+)*$/.test(name) ? name : undefined
}

/** Returns the front matter of a stored post. */
export const matterOf = (post: PostEntity): PostMatter => ({
  title: post.title,
  slug: post.slug,
  ...(post.writtenExcerpt === null ? {} : { excerpt: post.writtenExcerpt }),
  ...(post.publishedAt ? { published: post.publishedAt.toISOString() } : {}),
  ...(post.category ? { category: post.category.slug } : {}),
  ...(post.author ? { author: post.author.slug } : {}),
  ...(post.tags.length > 0 ? { tags: post.tags.map((tag) => tag.slug).sort() } : {}),
  ...(post.image ? { image: post.image.name } : {}),
  ...(post.imageText === '' ? {} : { 'image-text': post.imageText }),
  ...(post.commentsOpen ? {} : { comments: 'closed' as const }),
})

/** Returns a stored post as a file. */
export const postFileOf = (post: PostEntity): string => writeMatter(matterOf(post), post.body)
