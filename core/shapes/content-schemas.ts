/** The shapes of content files: front matter of posts and pages, and the lists of categories, tags, authors and comments. */
import { Type, type Static } from 'typebox'
import { COMMENT_STATES } from './content-kinds.ts'
import { closed, Line, SlugText } from './schemas.ts'

const Time = Type.String({ maxLength: 40 })

/** Refers to a category, an author or a tag. Saved posts have slugs. */
const SlugOrName = Line(120)

/** Front matter of `content/posts/SLUG.md`. */
export const PostMatter = Type.Object(
  {
    title: Line(300),
    slug: Type.Optional(SlugText),
    excerpt: Type.Optional(Type.String({ maxLength: 1000 })),
    /** A time, or days relative to the day of import (`-3 days 09:30`). Absent for a draft. */
    published: Type.Optional(Time),
    updated: Type.Optional(Time),
    category: Type.Optional(SlugOrName),
    author: Type.Optional(SlugOrName),
    tags: Type.Optional(Type.Array(SlugOrName, { maxItems: 20 })),
    image: Type.Optional(Type.String({ maxLength: 120 })),
    'image-text': Type.Optional(Type.String({ maxLength: 300 })),
    comments: Type.Optional(Type.Enum(['open', 'closed'])),
  },
  closed,
)
export type PostMatter = Static<typeof PostMatter>

/** Front matter of `content/pages/PATH.md`. The file's path is the page's path. */
export const PageMatter = Type.Object(
  {
    title: Line(300),
    position: Type.Optional(Type.Integer({ minimum: 0, maximum: 10_000 })),
    navigation: Type.Optional(Type.Boolean()),
  },
  closed,
)
export type PageMatter = Static<typeof PageMatter>

const Named = { name: Line(120), slug: SlugText }
export const Categories = Type.Array(Type.Object({ ...Named, parent: Type.Optional(SlugText) }, closed), {
  maxItems: 1000,
})
export const Tags = Type.Array(Type.Object(Named, closed), { maxItems: 5000 })
export const Authors = Type.Array(
  Type.Object({ ...Named, about: Type.Optional(Type.String({ maxLength: 1000 })) }, closed),
  { maxItems: 1000 },
)
export const Comments = Type.Array(
  Type.Object(
    {
      /** Identifies the comment in this list, for replies to it. */
      id: Type.Optional(Type.Union([Type.Integer({ minimum: 1 }), Type.String({ maxLength: 60 })])),
      post: SlugText,
      'reply-to': Type.Optional(Type.Union([Type.Integer({ minimum: 1 }), Type.String({ maxLength: 60 })])),
      name: Line(200),
      email: Type.Optional(Type.String({ maxLength: 254 })),
      site: Type.Optional(Type.String({ maxLength: 500 })),
      text: Type.String({ minLength: 1, maxLength: 20_000 }),
      state: Type.Optional(Type.Enum([...COMMENT_STATES])),
      'by-author': Type.Optional(Type.Boolean()),
      /** Why it was not simply shown. */
      reasons: Type.Optional(
        Type.Array(Type.Object({ code: Type.String({ maxLength: 40 }) }), { maxItems: 20 }),
      ),
      /** When it got its state. */
      'state-at': Type.Optional(Time),
      /** What it was before it was edited. */
      edits: Type.Optional(
        Type.Array(Type.Object({ at: Type.String(), name: Type.String(), text: Type.String() }), {
          maxItems: 1_000,
        }),
      ),
      score: Type.Optional(Type.Number({ minimum: 0, maximum: 1 })),
      /** For how long the form was open, in milliseconds. */
      'filled-in': Type.Optional(Type.Integer({ minimum: 0, maximum: 2_000_000_000 })),
      /** They identify the browser, the network address, the picture and the form. */
      writer: Type.Optional(Type.String({ maxLength: 60 })),
      client: Type.Optional(Type.String({ maxLength: 60 })),
      avatar: Type.Optional(
        Type.String({
          maxLength: 24,
          pattern: '^[A-Za-z0-9_-]*$',
          description: 'letters, digits, “-” and “_”',
        }),
      ),
      once: Type.Optional(
        Type.String({ pattern: '^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$', description: 'a UUID' }),
      ),
      at: Time,
      edited: Type.Optional(Time),
    },
    closed,
  ),
)
