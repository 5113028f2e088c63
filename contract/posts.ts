/** Operations on posts. */
import { Type, type Static } from 'typebox'
import { Nullable } from '../core/shapes/nullable.ts'
import { PostMatter } from '../core/shapes/content-schemas.ts'
import { POST_SORTS, POST_STATES, TERM_KINDS } from '../core/shapes/content-kinds.ts'
import { Address, closed, FormerSlugs, Policy, Purged, Slug, Time, Version } from './fields.ts'
import type { OperationGroup } from './operation.ts'
import { ProblemItem } from './problem.ts'

const Named = Type.Object({ slug: Type.String(), name: Type.String() })
const State = Type.Enum([...POST_STATES])

export const PostSummary = Type.Object({
  slug: Type.String(),
  title: Type.String(),
  state: State,
  publishedAt: Nullable(Time),
  updatedAt: Time,
  version: Type.Integer(),
  category: Nullable(Named),
  author: Nullable(Named),
  comments: Type.Integer({ description: 'how many comments readers see' }),
  wordCount: Type.Integer(),
  image: Nullable(Type.String()),
})
export type PostSummary = Static<typeof PostSummary>

export const PostList = Type.Object({
  posts: Type.Array(PostSummary),
  total: Type.Integer(),
  isMore: Type.Boolean({
    description: 'whether there are more matches than `total`, which is as far as they are counted',
  }),
  page: Type.Integer(),
  size: Type.Integer(),
  states: Nullable(
    Type.Object({ draft: Type.Integer(), scheduled: Type.Integer(), published: Type.Integer() }),
  ),
})
export type PostList = Static<typeof PostList>

/** The front matter of a post's file, and its Markdown text. */
const parts = { matter: PostMatter, body: Type.String({ maxLength: 1_000_000 }) }

export const Post = Type.Object({
  slug: Type.String(),
  version: Type.Integer(),
  state: State,
  ...parts,
  excerpt: Type.String({ description: 'what listings show: as written, or the start of the text' }),
  wordCount: Type.Integer(),
  address: Address,
  former: FormerSlugs,
  formerPublishedAt: Nullable(
    Type.String({
      format: 'date-time',
      description: 'of an unpublished post: the date to publish it again with',
    }),
  ),
  createdAt: Time,
  updatedAt: Time,
})
export type Post = Static<typeof Post>

const Saved = Type.Object({
  slug: Type.String(),
  version: Type.Integer(),
  purged: Purged,
})

export const Appearance = Type.Object({
  route: Type.String(),
  path: Type.String(),
  data: Type.String({ description: 'name in the route’s templates' }),
  query: Type.String(),
  how: Type.Enum(['itself', 'listed']),
  place: Type.Integer({ description: 'position on the page, from 1; 0 for the post’s own address' }),
  of: Type.Integer({ description: 'how many posts the page has room for; 0 if there is no limit' }),
  page: Nullable(Type.Integer()),
})
export type Appearance = Static<typeof Appearance>

const Ref = Type.Object({ slug: Slug, version: Type.Integer({ minimum: 1 }) }, closed)
const Refs = Type.Array(Ref, { minItems: 1, maxItems: 200 })

/** What was done to each of several posts. */
const Outcomes = Type.Object({
  results: Type.Array(
    Type.Object({
      slug: Type.String(),
      version: Nullable(Type.Integer()),
      deleted: Nullable(Type.Integer({ description: 'id by which a deleted post can be restored' })),
    }),
  ),
  purged: Purged,
})

const Names = Type.Array(
  Type.Object({ slug: Type.String(), name: Type.String(), posts: Type.Integer(), depth: Type.Integer() }),
)

export const postOperations = {
  'GET /api/posts': {
    summary: 'List posts of any state, filtered, sorted and paged',
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
    summary: 'Return a post',
    query: Type.Object({ slug: Slug }, closed),
    answer: Post,
    versioning: 'read',
  },
  'POST /api/posts': {
    summary:
      'Create a post; without a slug, a free one is derived from its title, and without a time it is a draft',
    body: Type.Object(parts, closed),
    answer: Saved,
    versioning: 'create',
  },
  'PUT /api/post': {
    summary: 'Save a post; a former slug redirects if the post was published',
    query: Type.Object({ slug: Slug }, closed),
    body: Type.Object({ version: Version, ...parts }, closed),
    answer: Saved,
    versioning: 'change',
  },
  'POST /api/posts/change': {
    summary: 'Change several posts, all or none',
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
              Nullable(
                Type.String({
                  maxLength: 40,
                  description:
                    'a time, `now` (a post that was published before keeps its date), or null for a draft',
                }),
              ),
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
    summary: 'Delete posts with their comments, all or none; each can be restored for 30 days',
    body: Type.Object({ posts: Refs }, closed),
    answer: Outcomes,
  },
  'POST /api/posts/import': {
    summary:
      'Import posts from Markdown files with front matter, all or none. Many files are sent in several requests with the same `import`; the last one imports all of them',
    body: Type.Object(
      {
        import: Type.Optional(
          Type.String({ format: 'uuid', description: 'identifies an import of several requests' }),
        ),
        more: Type.Optional(
          Type.Boolean({ description: 'whether more files follow. Then nothing is imported yet' }),
        ),
        skipRefused: Type.Optional(
          Type.Boolean({ description: 'whether to import the other files if some are refused' }),
        ),
        files: Type.Array(
          Type.Object(
            {
              name: Type.String({ minLength: 1, maxLength: 200 }),
              text: Type.String({ maxLength: 1_000_000 }),
            },
            closed,
          ),
          { maxItems: 200 },
        ),
        createMissing: Type.Optional(
          Type.Boolean({ description: 'whether to create categories, authors and tags that do not exist' }),
        ),
      },
      closed,
    ),
    answer: Type.Object({
      isDone: Type.Boolean({
        description: 'whether the files were imported. If not, the results say what would become of them',
      }),
      results: Type.Array(
        Type.Object({
          file: Type.String(),
          outcome: Type.Enum(['created', 'changed', 'unchanged', 'refused']),
          slug: Nullable(Type.String()),
          problems: Type.Array(ProblemItem),
        }),
      ),
      missing: Type.Array(
        Type.Object({
          kind: Type.Enum([...TERM_KINDS]),
          name: Type.String(),
          files: Type.Array(Type.String(), { description: 'files that refer to it' }),
        }),
        { description: 'what files refer to and does not exist' },
      ),
      purged: Purged,
    }),
  },
  'GET /api/posts/import': {
    summary: 'Return the progress of an import',
    query: Type.Object({ import: Type.String({ format: 'uuid' }) }, closed),
    answer: Type.Object({ done: Type.Integer(), total: Type.Integer() }),
  },
  'DELETE /api/posts/import': {
    summary: 'Stop an import, so that nothing is imported, and forget its files',
    query: Type.Object({ import: Type.String({ format: 'uuid' }) }, closed),
    answer: Type.Object({}),
  },
  'POST /api/post/preview': {
    summary: 'Render the page of a post with unsaved changes',
    body: Type.Object({ slug: Nullable(Slug), ...parts }, closed),
    readOnly: true,
    answer: Type.Object({
      status: Type.Integer(),
      path: Nullable(Type.String()),
      html: Type.String(),
      policy: Policy,
      wordCount: Type.Integer(),
      excerpt: Type.String(),
    }),
  },
  'GET /api/post/appearances': {
    summary: 'List the addresses that show a post, or that would show it if it were published now',
    query: Type.Object({ slug: Slug }, closed),
    answer: Type.Object({
      isPublic: Type.Boolean({ description: 'false if these addresses would show it once it is published' }),
      found: Type.Array(Appearance),
      beside: Type.Array(Type.Object({ route: Type.String(), data: Type.String(), query: Type.String() }), {
        description: 'data with which pages of other posts may show it',
      }),
    }),
  },
  'GET /api/names': {
    summary: 'List the categories (as a tree), authors, tags and images that posts can refer to',
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
      timeZone: Type.String({ description: 'time zone of the blog' }),
    }),
  },
} as const satisfies OperationGroup
