/** Operations on posts: what an author does in the workbench, a script can do too. */
import { Type, type Static } from 'typebox'
import { Nullable } from '../core/shapes/nullable.ts'
import { PostMatter } from '../core/shapes/schemas.ts'
import { POST_SORTS, POST_STATES } from '../core/shapes/content-kinds.ts'
import { ProblemItem } from './problem-item.ts'

const closed = { additionalProperties: false } as const
const Slug = Type.String({ minLength: 1, maxLength: 100 })
const Named = Type.Object({ slug: Type.String(), name: Type.String() })
const State = Type.Enum([...POST_STATES])
const Version = Type.Integer({ minimum: 1, description: 'the one that was read; may be given as If-Match' })

export const PostSummary = Type.Object({
  slug: Type.String(),
  title: Type.String(),
  state: State,
  publishedAt: Nullable(Type.String({ format: 'date-time' })),
  updatedAt: Type.String({ format: 'date-time' }),
  version: Type.Integer(),
  category: Nullable(Named),
  author: Nullable(Named),
  comments: Type.Integer({ description: 'those that readers see' }),
  wordCount: Type.Integer(),
  image: Nullable(Type.String()),
})
export type PostSummary = Static<typeof PostSummary>

export const PostList = Type.Object({
  posts: Type.Array(PostSummary),
  total: Type.Integer(),
  isMore: Type.Boolean({
    description: 'true: a search finds more than `total`; they are not counted further',
  }),
  page: Type.Integer(),
  size: Type.Integer(),
  states: Nullable(
    Type.Object({ draft: Type.Integer(), scheduled: Type.Integer(), published: Type.Integer() }),
  ),
})
export type PostList = Static<typeof PostList>

/** Body of a post: the front matter of its file, and its text in Markdown. */
const Parts = { matter: PostMatter, body: Type.String({ maxLength: 1_000_000 }) }

export const Post = Type.Object({
  slug: Type.String(),
  version: Type.Integer(),
  state: State,
  ...Parts,
  excerpt: Type.String({ description: 'what listings show: as written, or the opening of the text' }),
  wordCount: Type.Integer(),
  address: Nullable(Type.String({ description: 'where readers find it, once it is published' })),
  former: Type.Array(Type.String({ description: 'slugs that lead here' })),
  createdAt: Type.String({ format: 'date-time' }),
  updatedAt: Type.String({ format: 'date-time' }),
})
export type Post = Static<typeof Post>

const Saved = Type.Object({
  slug: Type.String(),
  version: Type.Integer(),
  purged: Type.Array(Type.String(), { description: 'keys of the kept copies that had to go' }),
})

export const Appearance = Type.Object({
  route: Type.String(),
  path: Type.String(),
  data: Type.String({ description: 'name in the route’s templates' }),
  query: Type.String(),
  how: Type.Enum(['itself', 'listed']),
  place: Type.Integer({ description: 'on the page, from 1; 0 for the post’s own address' }),
  of: Type.Integer({ description: 'places of the page; 0 where it has no end' }),
  page: Nullable(Type.Integer()),
})
export type Appearance = Static<typeof Appearance>

const Ref = Type.Object({ slug: Slug, version: Type.Integer({ minimum: 1 }) }, closed)
const Refs = Type.Array(Ref, { minItems: 1, maxItems: 200 })

/** What became of each of several posts. */
const Outcomes = Type.Object({
  results: Type.Array(
    Type.Object({
      slug: Type.String(),
      done: Type.Boolean(),
      version: Nullable(Type.Integer()),
      deleted: Nullable(Type.Integer({ description: 'by which a deleted post is put back' })),
      message: Nullable(Type.String({ description: 'why not' })),
    }),
  ),
})
export type PostOutcomes = Static<typeof Outcomes>

const Names = Type.Array(
  Type.Object({ slug: Type.String(), name: Type.String(), posts: Type.Integer(), depth: Type.Integer() }),
)

export const postOperations = {
  'GET /api/posts': {
    summary: 'Posts of any state: searched, filtered, sorted, a page at a time',
    query: Type.Object(
      {
        search: Type.Optional(Type.String({ maxLength: 200 })),
        state: Type.Optional(State),
        category: Type.Optional(Slug),
        author: Type.Optional(Slug),
        tag: Type.Optional(Slug),
        sort: Type.Optional(Type.Enum([...POST_SORTS])),
        page: Type.Optional(Type.String({ pattern: '^[1-9][0-9]{0,5}$' })),
        size: Type.Optional(Type.String({ pattern: '^([1-9]|[1-9][0-9]|100)$' })),
      },
      closed,
    ),
    answer: PostList,
  },
  'GET /api/post': {
    summary: 'One post; its version comes as ETag too',
    query: Type.Object({ slug: Slug }, closed),
    answer: Post,
  },
  'POST /api/posts': {
    summary: 'Make a post; without a slug it gets a free one from its title, without a time it is a draft',
    body: Type.Object(Parts, closed),
    answer: Saved,
  },
  'PUT /api/post': {
    summary: 'Change a post; its former slug leads on if it was published',
    query: Type.Object({ slug: Slug }, closed),
    body: Type.Object({ version: Version, ...Parts }, closed),
    answer: Saved,
  },
  'POST /api/posts/change': {
    summary: 'Change several posts: each by itself, with what became of it',
    body: Type.Object(
      {
        posts: Refs,
        change: Type.Object(
          {
            category: Type.Optional(Nullable(Slug)),
            author: Type.Optional(Nullable(Slug)),
            addTags: Type.Optional(Type.Array(Slug, { maxItems: 20 })),
            removeTags: Type.Optional(Type.Array(Slug, { maxItems: 20 })),
            published: Type.Optional(
              Nullable(Type.String({ maxLength: 40, description: 'a time, “now”, or null for a draft' })),
            ),
            comments: Type.Optional(Type.Enum(['open', 'closed'])),
          },
          { ...closed, minProperties: 1 },
        ),
      },
      closed,
    ),
    answer: Outcomes,
  },
  'POST /api/posts/delete': {
    summary: 'Delete posts with their comments; each can be put back for a month',
    body: Type.Object({ posts: Refs }, closed),
    answer: Outcomes,
  },
  'POST /api/posts/import': {
    summary: 'Posts from Markdown files with front matter: made, changed or refused, each with its reason',
    body: Type.Object(
      {
        files: Type.Array(
          Type.Object(
            {
              name: Type.String({ minLength: 1, maxLength: 200 }),
              text: Type.String({ maxLength: 1_000_000 }),
            },
            closed,
          ),
          { minItems: 1, maxItems: 200 },
        ),
      },
      closed,
    ),
    answer: Type.Object({
      results: Type.Array(
        Type.Object({
          file: Type.String(),
          outcome: Type.Enum(['made', 'changed', 'same', 'refused']),
          slug: Nullable(Type.String()),
          problems: Type.Array(ProblemItem),
        }),
      ),
    }),
  },
  'POST /api/post/preview': {
    summary: 'The page of a post as it would be, through the blog’s own templates; nothing is saved',
    body: Type.Object({ slug: Nullable(Slug), ...Parts }, closed),
    answer: Type.Object({
      status: Type.Integer(),
      path: Nullable(Type.String()),
      html: Type.String(),
      wordCount: Type.Integer(),
      excerpt: Type.String(),
    }),
  },
  'GET /api/post/appearances': {
    summary: 'Every address that shows a post; for one that is not published, those it would appear on now',
    query: Type.Object({ slug: Slug }, closed),
    answer: Type.Object({
      isPublic: Type.Boolean({ description: 'false: these are the addresses it would appear on' }),
      found: Type.Array(Appearance),
      beside: Type.Array(Type.Object({ route: Type.String(), data: Type.String(), query: Type.String() }), {
        description: 'data by which pages of other posts may show it',
      }),
    }),
  },
  'GET /api/names': {
    summary: 'Categories (as a tree), authors, tags and images that posts may name',
    answer: Type.Object({
      categories: Names,
      authors: Names,
      tags: Names,
      images: Type.Array(
        Type.Object({
          name: Type.String(),
          width: Type.Integer(),
          height: Type.Integer(),
          posts: Type.Integer(),
        }),
      ),
      timeZone: Type.String({ description: 'of the blog; times of posts are shown in it' }),
    }),
  },
} as const
