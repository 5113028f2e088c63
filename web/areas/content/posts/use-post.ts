/** The post that is being written. */
import type { Post } from '../../../../contract/posts.ts'
import type { PostMatter } from '../../../../core/shapes/content-schemas.ts'
import { useDraft, type Draft, type Writing } from '../writing/use-draft.ts'

export interface Parts {
  matter: PostMatter
  body: string
}

const POST: Writing<Parts, 'GET /api/post'> = {
  kind: 'post',
  empty: { matter: { title: '' }, body: '' },
  read: 'GET /api/post',
  inputOf: (slug) => ({ query: { slug } }),
  partsOf: ({ matter, body }) => ({ matter, body }),
  versionOf: ({ version }) => version,
  titleOf: ({ matter }) => matter.title,
  create: async (write, parts) => {
    const { slug, ...saved } = await write('POST /api/posts', { body: parts })
    return { name: slug, ...saved }
  },
  update: async (write, name, version, parts) => {
    const { slug, ...saved } = await write('PUT /api/post', {
      query: { slug: name },
      body: { version, ...parts },
    })
    return { name: slug, ...saved }
  },
  // Only drafts: what readers see is saved deliberately.
  isAutosaved: ({ matter }, stored) =>
    matter.published === undefined && (stored ? stored.state === 'draft' : matter.title.trim() !== ''),
}

export interface PostWork extends Draft<Parts, Post> {
  /** Changes the front matter. An undefined or empty value removes a part. */
  change(matter: Partial<Record<keyof PostMatter, unknown>>): void
  changeBody(body: string): void
}

/** @param slug null for a new post  @param onRenamed called with the new slug, and with the first one */
export function usePost(slug: string | null, onRenamed: (slug: string) => void): PostWork {
  const draft = useDraft(POST, slug, onRenamed)
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
