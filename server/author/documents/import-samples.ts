/** Adds sample posts to a blog without content: some posts of the demo, with everything that they refer to. */
import { blocked, refused, success, type Outcome } from '../../../core/shapes/outcome.ts'
import {
  AuthorEntity,
  CategoryEntity,
  ImageEntity,
  PageEntity,
  PostEntity,
  TagEntity,
} from '../../store/entities/content.ts'
import { SAMPLE_PROBLEMS } from '../problems.ts'
import type { Writing } from '../writing.ts'
import { readFolder } from './definition-folder.ts'
import { readContent } from './folder-content.ts'
import { insertContent } from './import.ts'

/** Ten published posts and two drafts. */
const POSTS = [
  ...['the-lamp-that-hummed-in-b-flat', 'a-visible-darn-worth-showing-off', 'chair-number-two-hundred'],
  ...['the-toaster-inquest', 'what-the-chain-checker-does-not-tell-you', 'zip-surgery'],
  ...['the-cuckoo-that-came-out-backwards', 'why-your-kettle-keeps-tripping-the-switch'],
  ...['the-button-jar', 'the-first-open-day', 'letter-to-a-new-volunteer', 'the-great-hoover-comparison'],
]
const PAGES = ['about', 'tool-library']

/** What must not be there yet. */
const KINDS = [
  [PostEntity, 'posts'],
  [PageEntity, 'pages'],
  [CategoryEntity, 'categories'],
  [TagEntity, 'tags'],
  [AuthorEntity, 'authors'],
  [ImageEntity, 'images'],
] as const

const wanted = new Set([
  ...POSTS.map((slug) => `content/posts/${slug}.md`),
  ...PAGES.map((path) => `content/pages/${path}.md`),
  ...['categories', 'tags', 'authors'].map((kind) => `content/${kind}.yaml`),
])

/** @param shipped the folder of the demo */
export async function importSamples(
  writing: Writing,
  shipped: string,
): Promise<Outcome<{ posts: number; drafts: number }>> {
  const { manager, definition, now } = writing
  for (const [entity, name] of KINDS)
    if ((await manager.getRepository(entity).count()) > 0)
      return blocked({ file: 'content', ...SAMPLE_PROBLEMS['samples-not-empty'](name) })
  const all = await readFolder(shipped)
  const texts = new Map([...all.texts].filter(([path]) => wanted.has(path)))
  const named = [...texts.values()].join('\n')
  const media = new Map([...all.media].filter(([name]) => named.includes(name)))
  const { content, problems } = await readContent({ texts, media }, now, definition)
  if (problems.length > 0) return refused(...problems)
  // A tag without posts would be a page without posts.
  const tagged = new Set(content.posts.flatMap((one) => one.matter.tags ?? []))
  const samples = { ...content, tags: content.tags.filter((one) => tagged.has(one.slug)) }
  const inserted = await insertContent(manager, samples, definition.htmlRules)
  if (!inserted.ok) return inserted
  writing.forgetNames()
  const drafts = content.posts.filter((one) => one.published === null).length
  return success({ posts: content.posts.length, drafts })
}
