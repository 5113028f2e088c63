/** One post being written. */
import type { PostMatter } from '../../../../core/shapes/schemas.ts'
import type { Post } from '../../../../contract/operations.ts'
import { call } from '../../../api/client.ts'
import { useDraft, type Draft, type Writing } from '../writing/use-draft.ts'

export interface Parts {
  matter: PostMatter
  body: string
}

const POST: Writing<Parts, Post> = {
  kind: 'post',
  empty: { matter: { title: '' }, body: '' },
  read: (slug) => call('GET /api/post', { query: { slug } }),
  partsOf: ({ matter, body }) => ({ matter, body }),
  create: async (parts) => {
    const { slug, version } = await call('POST /api/posts', { body: parts })
    return { name: slug, version }
  },
  update: async (name, version, parts) => {
    const saved = await call('PUT /api/post', { query: { slug: name }, body: { version, ...parts } })
    return { name: saved.slug, version: saved.version }
  },
  // Drafts save themselves; what readers see is saved on purpose.
  savesItself: ({ matter }, stored) =>
    matter.published === undefined && (stored ? stored.state === 'draft' : matter.title.trim() !== ''),
  tooLarge: 'A post may have 500,000 characters. Your text is still here.',
}

export interface PostWork extends Draft<Parts, Post> {
  /** An undefined or empty value takes a part of the front matter away. */
  change(matter: Partial<Record<keyof PostMatter, unknown>>): void
  changeBody(body: string): void
}

/** @param slug null for a new post  @param moved told when the post got another slug, or its first */
export function usePost(slug: string | null, moved: (slug: string) => void): PostWork {
  const draft = useDraft(POST, slug, moved)
  const { parts, edit } = draft
  return {
    ...draft,
    change: (changes) => {
      const matter = Object.fromEntries(
        Object.entries({ ...parts.matter, ...changes }).filter(
          ([, value]) => value !== undefined && value !== '',
        ),
      ) as PostMatter
      edit({ ...parts, matter: { ...matter, title: matter.title ?? '' } })
    },
    changeBody: (body) => {
      if (body !== parts.body) edit({ ...parts, body })
    },
  }
}
