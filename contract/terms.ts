/** Operations on terms: categories, tags and authors. */
import { Type, type Static } from 'typebox'
import { TERM_KINDS } from '../core/shapes/content-kinds.ts'
import { Nullable } from '../core/shapes/nullable.ts'
import { Address, closed, FormerSlugs, Line, Purged, Slug, Version } from './fields.ts'
import type { OperationGroup } from './operation.ts'

const TermKind = Type.Enum([...TERM_KINDS])

export const Term = Type.Object({
  slug: Type.String(),
  name: Type.String(),
  version: Type.Integer(),
  about: Nullable(Type.String({ description: 'only authors have one' })),
  parent: Nullable(Type.String({ description: 'slug of a category’s parent' })),
  depth: Type.Integer(),
  posts: Type.Object({ published: Type.Integer(), scheduled: Type.Integer(), draft: Type.Integer() }),
  former: FormerSlugs,
  address: Address,
})
export type Term = Static<typeof Term>

const parts = {
  name: Line(120),
  slug: Type.Optional(Slug),
  about: Type.Optional(Type.String({ maxLength: 1000, description: 'only for authors' })),
  parent: Type.Optional(
    Nullable(Type.String({ maxLength: 100, description: 'slug of a category’s parent; null for none' })),
  ),
}
const SavedTerm = Type.Object({ slug: Type.String(), version: Type.Integer(), purged: Purged })
const termQuery = Type.Object({ kind: TermKind, slug: Slug }, closed)

export const termOperations = {
  'GET /api/terms': {
    summary: 'List categories (as a tree), tags or authors, with the number of their posts',
    query: Type.Object({ kind: TermKind }, closed),
    answer: Type.Array(Term),
  },
  'GET /api/term': {
    summary: 'Return a category, tag or author',
    query: termQuery,
    answer: Term,
    versioning: 'read',
  },
  'POST /api/terms': {
    summary: 'Create a category, tag or author; without a slug, a free one is derived from its name',
    body: Type.Object({ kind: TermKind, ...parts }, closed),
    answer: SavedTerm,
    versioning: 'create',
  },
  'PUT /api/term': {
    summary: 'Save a category, tag or author; a former slug redirects',
    query: termQuery,
    body: Type.Object({ version: Version, ...parts }, closed),
    answer: SavedTerm,
    versioning: 'change',
  },
  'POST /api/category/move': {
    summary: 'Move a category in the tree',
    query: Type.Object({ slug: Slug }, closed),
    body: Type.Object(
      {
        version: Version,
        parent: Nullable(Slug),
        before: Nullable(
          Type.String({
            maxLength: 100,
            description: 'the category that it comes before; null for the last place',
          }),
        ),
      },
      closed,
    ),
    answer: SavedTerm,
    versioning: 'change',
  },
  'POST /api/term/delete': {
    summary:
      'Delete a category, tag or author, or merge it into another, which gets its posts and its address',
    query: termQuery,
    body: Type.Object(
      {
        version: Version,
        into: Type.Optional(
          Nullable(Type.String({ minLength: 1, maxLength: 100, description: 'to merge into' })),
        ),
        evenIfUsed: Type.Optional(
          Type.Boolean({ description: 'whether to delete it although posts use it and it is not merged' }),
        ),
      },
      closed,
    ),
    answer: Type.Object({
      deleted: Type.Integer({ description: 'id by which it can be restored' }),
      title: Type.String(),
      posts: Type.Integer({ description: 'how many posts used it' }),
      purged: Purged,
    }),
    versioning: 'change',
  },
} as const satisfies OperationGroup
