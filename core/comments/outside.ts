/** Comments at an outside service: how a page names its thread there, and how comments are exchanged. */
import { Type, type Static } from 'typebox'
import { COMMENT_STATES } from '../shapes/content-kinds.ts'
import { Nullable } from '../shapes/nullable.ts'

/**
 * What names the thread of a post. `id` never changes; `slug` changes with the post's slug; `address` is different for each
 * way to write the address.
 */
export const THREAD_IDENTIFIERS = ['id', 'slug', 'address'] as const
export type ThreadIdentifier = (typeof THREAD_IDENTIFIERS)[number]

/** The name of the built-in test service, in place of an address. */
export const TEST_SERVICE = 'test'

export interface OutsideService {
  /** Its origin, or `test`. */
  service: string
  /** The name of the blog there. */
  site: string
  identifier: ThreadIdentifier
}

/** @param address of the page as it was requested */
export function threadOf(
  identifier: ThreadIdentifier,
  { id, slug, address }: { id: number; slug: string; address: string },
): string {
  switch (identifier) {
    case 'id':
      return `post-${id}`
    case 'slug':
      return slug
    case 'address':
      return address
  }
}

/** What templates read as `form.outside`. */
export interface OutsideThread {
  /** The address of the script that shows the thread. */
  script: string
  site: string
  thread: string
  address: string
  title: string
}

/** Comments in an exchange with the service. E-mail addresses are not among them. */
export const OutsideComments = Type.Array(
  Type.Object({
    /** Unique at the service; of the blog's own comments `esquina-ID`. */
    key: Type.String({ minLength: 1, maxLength: 100 }),
    thread: Type.String({ minLength: 1, maxLength: 1_000 }),
    parent: Nullable(Type.String({ minLength: 1, maxLength: 100 })),
    name: Type.String({ minLength: 1, maxLength: 400 }),
    text: Type.String({ minLength: 1, maxLength: 20_000 }),
    /** RFC 3339. */
    at: Type.String({
      pattern: '^\\d{4}-\\d\\d-\\d\\dT\\d\\d:\\d\\d:\\d\\d(\\.\\d{1,9})?(Z|[+-]\\d\\d:\\d\\d)$',
      description: 'a time such as 2026-11-20T09:30:00Z',
    }),
    state: Type.Enum([...COMMENT_STATES]),
  }),
  { maxItems: 1_000 },
)
export type OutsideComment = Static<typeof OutsideComments>[number]

/** The key of one of the blog's own comments. */
export const ownKey = (id: number): string => `esquina-${id}`

/** @returns undefined for a comment that was written at the service */
export const ownId = (key: string): number | undefined => {
  const [, id] = /^esquina-([1-9][0-9]{0,8})$/.exec(key) ?? []
  return id === undefined ? undefined : Number(id)
}
