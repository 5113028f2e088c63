/** Operations of the Routes area: routes with their addresses, tests of addresses, and drafts of new routes. */
import { Type, type Static } from 'typebox'
import { ChangeStep } from '../core/shapes/changes.ts'
import { SLUG_KINDS } from '../core/shapes/content-kinds.ts'
import { Nullable } from '../core/shapes/nullable.ts'
import { closed, Time } from './fields.ts'
import type { OperationGroup } from './operation.ts'

export const RouteSummary = Type.Object({
  name: Type.String(),
  path: Type.String(),
  method: Type.Enum(['GET', 'POST']),
  parameters: Type.Array(Type.Object({ name: Type.String(), type: Type.String() })),
  template: Nullable(Type.String()),
  action: Nullable(Type.String()),
  redirect: Nullable(Type.Object({ to: Type.String(), status: Type.Integer() })),
  queries: Type.Array(
    Type.Object({
      name: Type.String(),
      sentence: Type.String(),
      pagesBy: Nullable(Type.Enum(['number', 'cursor'], { description: 'null if it is not paged' })),
    }),
  ),
  rows: Nullable(
    Type.Enum([...SLUG_KINDS], {
      description: 'what the route shows, if its only parameter is a slug (the path of a page)',
    }),
  ),
  line: Nullable(Type.Integer()),
  example: Nullable(Type.String({ description: 'an existing address of this route' })),
  addresses: Nullable(
    Type.Integer({
      description: 'how many addresses it has, with the pages of its listings; null if any address matches',
    }),
  ),
})
export type RouteSummary = Static<typeof RouteSummary>

const ExistingAddress = Type.Object({ path: Type.String(), title: Nullable(Type.String()) })

export const AddressTest = Type.Object({
  address: Type.String({ description: 'as given' }),
  outcome: Type.Enum(['answered', 'redirect', 'not-found', 'refused', 'failed']),
  status: Type.Integer(),
  route: Nullable(Type.String()),
  reason: Type.String(),
  to: Nullable(Type.String({ description: 'the target of a redirect, or the most similar address' })),
})
export type AddressTest = Static<typeof AddressTest>

const NotFoundItem = Type.Object({
  path: Type.String(),
  times: Type.Integer(),
  lastAt: Time,
  nearest: Nullable(ExistingAddress),
})
export type NotFoundItem = Static<typeof NotFoundItem>

const Name = Type.String({ minLength: 1, maxLength: 60 })

export const RouteDraft = Type.Object({
  steps: Type.Array(ChangeStep, { description: 'the changes that create it' }),
  address: Type.String({ description: 'an address to look at once the draft is saved' }),
})
export type RouteDraft = Static<typeof RouteDraft>

export const routeOperations = {
  'GET /api/routes': {
    summary: 'List the routes in order, with the number of their addresses',
    answer: Type.Array(RouteSummary),
  },
  'GET /api/routes/addresses': {
    summary: 'List the existing addresses of a route',
    query: Type.Object(
      { route: Name, page: Type.Optional(Type.String({ pattern: '^[1-9][0-9]{0,5}$' })) },
      closed,
    ),
    answer: Type.Object({
      addresses: Type.Array(ExistingAddress),
      total: Nullable(Type.Integer()),
      size: Type.Integer(),
    }),
  },
  'POST /api/routes/test': {
    summary: 'Test how addresses are answered, and why',
    body: Type.Object(
      { addresses: Type.Array(Type.String({ maxLength: 9_000 }), { maxItems: 200 }) },
      closed,
    ),
    answer: Type.Array(AddressTest),
    readOnly: true,
  },
  'POST /api/routes/build': {
    summary: 'Build the address of a route for given parameters',
    body: Type.Object(
      { route: Name, parameters: Type.Record(Type.String(), Type.String({ maxLength: 500 })) },
      closed,
    ),
    answer: Type.Object({
      path: Nullable(Type.String()),
      message: Nullable(Type.String({ description: 'why there is none' })),
      template: Type.String({ description: 'the expression for a template' }),
    }),
    readOnly: true,
  },
  'POST /api/routes/draft': {
    summary: 'Draft a route with its query and template, without saving it',
    body: Type.Object(
      {
        kind: Type.Enum(['listing', 'single', 'category', 'page', 'month', 'comments', 'redirect']),
        name: Type.String({ pattern: '^[a-z][a-z0-9]*(-[a-z0-9]+)*$', maxLength: 40 }),
        path: Type.String({
          pattern: '^/',
          maxLength: 200,
          description: 'without parameters; for comments the path of the route that shows a post',
        }),
        to: Type.Optional(
          Type.String({ minLength: 1, maxLength: 500, description: 'the target of a redirect' }),
        ),
      },
      closed,
    ),
    answer: RouteDraft,
    readOnly: true,
  },
  'GET /api/routes/commentable': {
    summary: 'List the paths of routes that show a post and have no comments yet',
    answer: Type.Array(Type.String()),
  },
  'GET /api/not-found': {
    summary: 'List addresses that were answered with 404, the most frequent first',
    answer: Type.Array(NotFoundItem),
  },
  'DELETE /api/not-found': {
    summary: 'Delete an address from the list',
    query: Type.Object({ path: Type.String({ maxLength: 600 }) }, closed),
    answer: Type.Object({ deleted: Type.Boolean() }),
  },
} as const satisfies OperationGroup
