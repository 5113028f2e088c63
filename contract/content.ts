/** Operations on what posts go with: pages, categories, tags, authors, images; what was deleted; the list of HTML. */
import { Type, type Static } from 'typebox'
import { Nullable } from '../core/shapes/nullable.ts'
import { ALLOWED_ELEMENTS, ELEMENT_GROUPS } from '../core/shapes/html-elements.ts'
import { BIN_KINDS, TERM_KINDS } from '../core/shapes/content-kinds.ts'

const closed = { additionalProperties: false } as const
const Line = (maximum: number) =>
  Type.String({ minLength: 1, maxLength: maximum, pattern: '^[^\\u0000-\\u001f]*$' })
const Slug = Type.String({ minLength: 1, maxLength: 100 })
const Path = Type.String({
  minLength: 1,
  maxLength: 500,
  description: 'slugs of the page and those above it, joined by “/”',
})
/** PostgreSQL's largest `integer`. */
const LARGEST_ID = 2_147_483_647
const Version = Type.Integer({ minimum: 1, description: 'the one that was read; may be given as If-Match' })
const When = Type.String({ format: 'date-time' })
const Purged = Type.Array(Type.String(), { description: 'keys of the kept copies that had to go' })
const Address = Nullable(Type.String({ description: 'where readers find it; null where no route shows it' }))
const Former = Type.Array(Type.String(), { description: 'slugs or paths that lead here' })

const TermKind = Type.Enum([...TERM_KINDS])
export const Term = Type.Object({
  slug: Type.String(),
  name: Type.String(),
  version: Type.Integer(),
  about: Nullable(Type.String({ description: 'of an author' })),
  parent: Nullable(Type.String({ description: 'of a category: the one it is in' })),
  depth: Type.Integer(),
  posts: Type.Object({ published: Type.Integer(), scheduled: Type.Integer(), draft: Type.Integer() }),
  former: Former,
  address: Address,
})
export type Term = Static<typeof Term>

const termParts = {
  name: Line(120),
  slug: Type.Optional(Slug),
  about: Type.Optional(Type.String({ maxLength: 1000, description: 'of an author' })),
  parent: Type.Optional(
    Nullable(Type.String({ maxLength: 100, description: 'of a category; null for none' })),
  ),
}
const SavedTerm = Type.Object({ slug: Type.String(), version: Type.Integer(), purged: Purged })
const termQuery = Type.Object({ kind: TermKind, slug: Slug }, closed)

const Deleted = Type.Object({
  deleted: Type.Integer({ description: 'by which it is put back' }),
  title: Type.String(),
  /** Posts that had it, or pages that went with it. */
  count: Type.Integer({
    description: 'of a term: posts that had it; of a page: pages that went, itself among them',
  }),
})

export const PageSummary = Type.Object({
  path: Type.String(),
  title: Type.String(),
  slug: Type.String(),
  parent: Nullable(Type.String()),
  depth: Type.Integer(),
  inNavigation: Type.Boolean(),
  version: Type.Integer(),
  updatedAt: When,
  wordCount: Type.Integer(),
  address: Address,
})
export type PageSummary = Static<typeof PageSummary>

const pageParts = {
  title: Line(300),
  body: Type.String({ maxLength: 1_000_000, description: 'Markdown' }),
  inNavigation: Type.Boolean(),
}
export const Page = Type.Object({
  path: Type.String(),
  version: Type.Integer(),
  ...pageParts,
  updatedAt: When,
  address: Address,
  former: Former,
})
export type Page = Static<typeof Page>
const SavedPage = Type.Object({
  path: Type.String(),
  version: Type.Integer(),
  purged: Purged,
  former: Type.Array(Type.String(), { description: 'paths that lead on from now on' }),
})
const pageQuery = Type.Object({ path: Path }, closed)

export const ImageItem = Type.Object({
  name: Type.String(),
  type: Type.String(),
  width: Type.Integer({ description: 'pixels' }),
  height: Type.Integer({ description: 'pixels' }),
  bytes: Type.Integer(),
  sha256: Type.String(),
  addedAt: When,
  address: Type.String({ description: 'of the file, on the blog' }),
  uses: Type.Array(
    Type.Object({
      how: Type.Enum(['picture', 'text', 'definition']),
      kind: Type.Enum(['post', 'page', 'document']),
      name: Type.String(),
      title: Type.String(),
    }),
    { description: 'empty: nothing uses it' },
  ),
})
export type ImageItem = Static<typeof ImageItem>

/** The body is the file itself. */
const Bytes = Type.Unsafe<Uint8Array>({ type: 'string', contentMediaType: 'application/octet-stream' })

const HtmlRule = Type.Object(
  {
    typed: Type.Boolean({ description: 'false: HTML typed in a text is shown as text' }),
    without: Type.Array(Type.Enum(ALLOWED_ELEMENTS.map((one) => one.name)), { maxItems: 100 }),
  },
  closed,
)

const Count = Type.Integer({ minimum: 0 })

export const contentOperations = {
  'GET /api/content': {
    summary: 'How much content there is',
    answer: Type.Object({
      posts: Count,
      pages: Count,
      categories: Count,
      tags: Count,
      authors: Count,
      images: Count,
    }),
  },
  'GET /api/terms': {
    summary: 'Categories (as a tree), tags or authors, with how many posts have each',
    query: Type.Object({ kind: TermKind }, closed),
    answer: Type.Array(Term),
  },
  'GET /api/term': {
    summary: 'One category, tag or author; its version comes as ETag too',
    query: termQuery,
    answer: Term,
  },
  'POST /api/terms': {
    summary: 'Make a category, tag or author; without a slug it gets a free one from its name',
    body: Type.Object({ kind: TermKind, ...termParts }, closed),
    answer: SavedTerm,
  },
  'PUT /api/term': {
    summary: 'Change a category, tag or author; its former slug leads on',
    query: termQuery,
    body: Type.Object({ version: Version, ...termParts }, closed),
    answer: SavedTerm,
  },
  'POST /api/category/place': {
    summary: 'Move a category in the tree',
    query: Type.Object({ slug: Slug }, closed),
    body: Type.Object(
      {
        version: Version,
        parent: Nullable(Slug),
        before: Nullable(
          Type.String({ maxLength: 100, description: 'the category it comes before; null for last' }),
        ),
      },
      closed,
    ),
    answer: SavedTerm,
  },
  'POST /api/term/delete': {
    summary:
      'Delete a category, tag or author, or merge it into another: posts go over, its address leads there',
    query: termQuery,
    body: Type.Object(
      {
        version: Version,
        into: Type.Optional(Nullable(Slug)),
        evenIfUsed: Type.Optional(Type.Boolean({ description: 'true: posts that have it are left without' })),
      },
      closed,
    ),
    answer: Deleted,
  },
  'GET /api/pages': {
    summary: 'All pages as a tree: each before those below it, in their order',
    answer: Type.Array(PageSummary),
  },
  'GET /api/page': { summary: 'One page; its version comes as ETag too', query: pageQuery, answer: Page },
  'POST /api/pages': {
    summary: 'Make a page, the last below its parent; without a slug it gets a free one from its title',
    body: Type.Object(
      { ...pageParts, slug: Type.Optional(Slug), parent: Type.Optional(Nullable(Path)) },
      closed,
    ),
    answer: SavedPage,
  },
  'PUT /api/page': {
    summary: 'Change a page’s title and text',
    query: pageQuery,
    body: Type.Object({ version: Version, ...pageParts }, closed),
    answer: SavedPage,
  },
  'POST /api/page/place': {
    summary: 'Move a page with those below it, or give it another slug; old addresses lead on',
    query: pageQuery,
    body: Type.Object(
      {
        version: Version,
        parent: Nullable(Path),
        before: Nullable(
          Type.String({ maxLength: 500, description: 'path of the page it comes before; null for last' }),
        ),
        slug: Type.Optional(Slug),
      },
      closed,
    ),
    answer: SavedPage,
  },
  'POST /api/page/delete': {
    summary: 'Delete a page with those below it; all can be put back',
    query: pageQuery,
    body: Type.Object({ version: Version }, closed),
    answer: Deleted,
  },
  'POST /api/page/preview': {
    summary: 'The page as it would be after a save, which never happens',
    body: Type.Object({ path: Nullable(Path), ...pageParts }, closed),
    answer: Type.Object({
      path: Nullable(Type.String()),
      status: Type.Integer(),
      html: Type.String(),
      wordCount: Type.Integer(),
    }),
  },
  'GET /api/images': { summary: 'All images, with everything that uses each', answer: Type.Array(ImageItem) },
  'PUT /api/image': {
    summary: 'Add a picture: PNG, JPEG, WebP, GIF or SVG, told by what is in the file. The body is the file',
    query: Type.Object(
      {
        file: Type.String({
          minLength: 1,
          maxLength: 200,
          description: 'its name, of which the image’s is made',
        }),
        replaces: Type.Optional(
          Type.String({ maxLength: 120, description: 'the image whose place it takes' }),
        ),
      },
      closed,
    ),
    body: Bytes,
    upload: true,
    answer: Type.Object({
      outcome: Type.Enum(['added', 'replaced', 'same']),
      name: Type.String(),
      width: Type.Integer(),
      height: Type.Integer(),
      removed: Type.Array(Type.Object({ what: Type.String(), line: Nullable(Type.Integer()) }), {
        description:
          'what was left out: of a drawing, what could run or load something, with its line; of a photograph, where it was taken',
      }),
    }),
  },
  'DELETE /api/image': {
    summary: 'Delete an image; posts whose picture it is have none then. It can be put back',
    query: Type.Object({ name: Type.String({ minLength: 1, maxLength: 120 }) }, closed),
    answer: Type.Object({ deleted: Type.Integer() }),
  },
  'GET /api/deleted': {
    summary: 'What can be put back, the last deleted first',
    query: Type.Object({ kind: Type.Enum([...BIN_KINDS]) }, closed),
    answer: Type.Array(
      Type.Object({ id: Type.Integer(), name: Type.String(), title: Type.String(), deletedAt: When }),
    ),
  },
  'POST /api/deleted/restore': {
    summary: 'Put back what was deleted, as it was, with what went with it',
    body: Type.Object({ deleted: Type.Integer({ minimum: 1, maximum: LARGEST_ID }) }, closed),
    answer: Type.Object({ kind: Type.Enum([...BIN_KINDS]), name: Type.String() }),
  },
  'GET /api/html': {
    summary:
      'The allow-list of HTML in texts, how the definition narrows it, and how many texts use each element',
    answer: Type.Object({
      elements: Type.Array(
        Type.Object({
          name: Type.String(),
          group: Type.Enum([...ELEMENT_GROUPS]),
          attributes: Type.Array(Type.String()),
          texts: Type.Integer({ description: 'posts and pages that have one, of those looked at' }),
        }),
      ),
      lookedAt: Type.Integer({
        description: 'how many posts, and how many pages, are looked at: the newest',
      }),
      schemes: Type.Array(Type.String()),
      rule: HtmlRule,
      version: Type.Integer({ description: 'of blog.yaml, in which the rule stands' }),
    }),
  },
  'PUT /api/html': {
    summary: 'Narrow the allow-list, or widen it again: a change of blog.yaml; stored texts are made anew',
    body: Type.Object({ version: Version, rule: HtmlRule }, closed),
    answer: Type.Object({ version: Type.Integer() }),
  },
  'POST /api/html/try': {
    summary: 'What becomes of a text: the HTML that readers would get, and what is dropped',
    body: Type.Object({ text: Type.String({ maxLength: 500_000 }), rule: HtmlRule }, closed),
    answer: Type.Object({
      html: Type.String(),
      dropped: Type.Array(Type.Object({ what: Type.String(), times: Type.Integer() })),
      words: Type.Integer(),
    }),
  },
} as const
