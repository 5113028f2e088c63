/** The shape of the comment rules: `comments` in blog.yaml, and what a route changes of them. */
import { Type, type Static } from 'typebox'

const closed = { additionalProperties: false } as const

export const COMMENT_SHOW = ['at-once', 'known-writers', 'after-approval'] as const
export const COMMENT_FIELD_USE = ['required', 'optional', 'off'] as const
export const COMMENT_ORDERS = ['oldest-first', 'newest-first'] as const
export const COMMENT_NOTICES = ['waiting', 'all', 'none'] as const

const FieldUse = Type.Optional(Type.Enum([...COMMENT_FIELD_USE]))
const Duration = Type.String({ pattern: '^(0s|[1-9][0-9]{0,4}[smhd])$', description: '45s, 30m, 1h or 7d' })

const MailAddress = Type.String({
  maxLength: 254,
  // No character that has a meaning in a header.
  pattern: '^[^@\\s<>()\\[\\]\\\\,;:"\\x00-\\x1f\\x7f]+@[A-Za-z0-9.-]+$',
  description: 'an e-mail address',
})

export const CommentRules = Type.Object(
  {
    /** False: nobody can comment. */
    accept: Type.Optional(Type.Boolean()),
    /** When a comment is shown. Whoever has had a comment approved is a known writer. */
    show: Type.Optional(Type.Enum([...COMMENT_SHOW])),
    fields: Type.Optional(Type.Object({ name: FieldUse, email: FieldUse, site: FieldUse }, closed)),
    order: Type.Optional(Type.Enum([...COMMENT_ORDERS])),
    /** Levels of replies; 0 for none. */
    depth: Type.Optional(Type.Integer({ minimum: 0, maximum: 5 })),
    'page-size': Type.Optional(Type.Integer({ minimum: 1, maximum: 100 })),
    /** Comments with more links wait. */
    links: Type.Optional(Type.Integer({ minimum: 0, maximum: 20 })),
    'name-length': Type.Optional(Type.Integer({ minimum: 1, maximum: 200 })),
    'text-length': Type.Optional(Type.Integer({ minimum: 1, maximum: 20_000 })),
    /** How many comments are accepted within a time. */
    rate: Type.Optional(
      Type.Object(
        {
          'per-address': Type.Optional(Type.Integer({ minimum: 1, maximum: 10_000 })),
          'per-post': Type.Optional(Type.Integer({ minimum: 1, maximum: 100_000 })),
          within: Type.Optional(Duration),
        },
        closed,
      ),
    ),
    /** How long after its publication a post can be commented on. */
    'closes-after': Type.Optional(Duration),
    /** How long writers can change and delete their comments. */
    'editable-for': Type.Optional(Duration),
    /** A form that is sent sooner was not filled in by a person. */
    'fill-time': Type.Optional(Duration),
    /** A field that people do not see, and programs fill in. */
    honeypot: Type.Optional(Type.Boolean()),
    /** Comments with one of these words wait. */
    'blocked-words': Type.Optional(
      Type.Array(Type.String({ minLength: 2, maxLength: 60 }), { maxItems: 500 }),
    ),
    /** Comments are kept by an outside service, which pages embed. */
    outside: Type.Optional(
      Type.Object(
        {
          service: Type.String({
            maxLength: 200,
            pattern: '^(test|https?://[A-Za-z0-9.-]+(:[0-9]{1,5})?)$',
            description: '“test” for the built-in test service, or an origin such as https://talk.example',
          }),
          /** The name of the blog at the service. */
          site: Type.Optional(
            Type.String({
              pattern: '^[a-z0-9-]{1,60}$',
              description: 'lower-case letters, digits and hyphens',
            }),
          ),
          /** What names the thread of a post. */
          identifier: Type.Optional(Type.Enum(['id', 'slug', 'address'])),
        },
        closed,
      ),
    ),
    notify: Type.Optional(
      Type.Object(
        {
          /** Where the author gets mail, and about which comments. */
          author: Type.Optional(MailAddress),
          about: Type.Optional(Type.Enum([...COMMENT_NOTICES])),
          /** The sender of all e-mails; `no-reply@` and the blog's host by default. */
          from: Type.Optional(MailAddress),
          /** Whether readers can ask for mail about replies. */
          replies: Type.Optional(Type.Boolean()),
        },
        closed,
      ),
    ),
  },
  closed,
)
export type CommentRules = Static<typeof CommentRules>
