/** Operations on pages. */
import { Type, type Static } from 'typebox'
import { Nullable } from '../core/shapes/nullable.ts'
import {
  Address,
  closed,
  FormerSlugs,
  Line,
  PagePath,
  Policy,
  Purged,
  Slug,
  Time,
  Version,
} from './fields.ts'
import type { OperationGroup } from './operation.ts'

export const PageSummary = Type.Object({
  path: Type.String(),
  title: Type.String(),
  slug: Type.String(),
  parent: Nullable(Type.String()),
  depth: Type.Integer(),
  inNavigation: Type.Boolean(),
  version: Type.Integer(),
  updatedAt: Time,
  wordCount: Type.Integer(),
  address: Address,
})
export type PageSummary = Static<typeof PageSummary>

const parts = {
  title: Line(300),
  body: Type.String({ maxLength: 1_000_000, description: 'Markdown' }),
  inNavigation: Type.Boolean(),
}

export const Page = Type.Object({
  path: Type.String(),
  version: Type.Integer(),
  ...parts,
  updatedAt: Time,
  address: Address,
  former: FormerSlugs,
})
export type Page = Static<typeof Page>

const SavedPage = Type.Object({
  path: Type.String(),
  version: Type.Integer(),
  purged: Purged,
  former: Type.Array(Type.String(), { description: 'paths that redirect from now on' }),
})
const pageQuery = Type.Object({ path: PagePath }, closed)

export const pageOperations = {
  'GET /api/pages': {
    summary: 'List all pages as a tree, each before those below it',
    answer: Type.Array(PageSummary),
  },
  'GET /api/page': { summary: 'Return a page', query: pageQuery, answer: Page, versioning: 'read' },
  'POST /api/pages': {
    summary:
      'Create a page as the last one below its parent; without a slug, a free one is derived from its title',
    body: Type.Object(
      { ...parts, slug: Type.Optional(Slug), parent: Type.Optional(Nullable(PagePath)) },
      closed,
    ),
    answer: SavedPage,
    versioning: 'create',
  },
  'PUT /api/page': {
    summary: 'Save a page’s title and text',
    query: pageQuery,
    body: Type.Object({ version: Version, ...parts }, closed),
    answer: SavedPage,
    versioning: 'change',
  },
  'POST /api/page/move': {
    summary: 'Move a page with the pages below it, or change its slug; former paths redirect',
    query: pageQuery,
    body: Type.Object(
      {
        version: Version,
        parent: Nullable(PagePath),
        before: Nullable(
          Type.String({
            maxLength: 500,
            description: 'path of the page that it comes before; null for the last place',
          }),
        ),
        slug: Type.Optional(Slug),
      },
      closed,
    ),
    answer: SavedPage,
    versioning: 'change',
  },
  'POST /api/page/delete': {
    summary: 'Delete a page with the pages below it; they can be restored for 30 days',
    query: pageQuery,
    body: Type.Object({ version: Version }, closed),
    answer: Type.Object({
      deleted: Type.Integer({ description: 'id by which they can be restored' }),
      title: Type.String(),
      pages: Type.Integer({ description: 'how many pages were deleted' }),
      purged: Purged,
    }),
    versioning: 'change',
  },
  'POST /api/page/preview': {
    summary: 'Render a page with unsaved changes',
    body: Type.Object({ path: Nullable(PagePath), ...parts }, closed),
    answer: Type.Object({
      path: Nullable(Type.String()),
      status: Type.Integer(),
      html: Type.String(),
      policy: Policy,
      wordCount: Type.Integer(),
    }),
    readOnly: true,
  },
} as const satisfies OperationGroup
