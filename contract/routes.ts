/** Operations of the Routes area: the routes with what they reach, trials, building, slugs, starting points. */
import { Type, type Static } from 'typebox'
import { Nullable } from '../core/shapes/nullable.ts'
import { SlugChangeRequest } from '../core/shapes/changes.ts'

const closed = { additionalProperties: false } as const

export const RouteSummary = Type.Object({
  name: Type.String(),
  path: Type.String(),
  method: Type.Enum(['GET', 'POST']),
  parameters: Type.Array(Type.Object({ name: Type.String(), type: Type.String() })),
  template: Nullable(Type.String()),
  action: Nullable(Type.String()),
  redirect: Nullable(Type.Object({ to: Type.String(), status: Type.Integer() })),
  queries: Type.Array(Type.Object({ name: Type.String(), sentence: Type.String(), paged: Type.Boolean() })),
  line: Nullable(Type.Integer()),
  example: Nullable(Type.String({ description: 'a real address of this route' })),
  addresses: Nullable(
    Type.Integer({ description: 'how many it has now, pages of listings included; null: any' }),
  ),
})
export type RouteSummary = Static<typeof RouteSummary>

const RouteAddress = Type.Object({ path: Type.String(), title: Nullable(Type.String()) })
export type RouteAddress = Static<typeof RouteAddress>

export const Trial = Type.Object({
  address: Type.String({ description: 'as given' }),
  outcome: Type.Enum(['answered', 'redirect', 'not-found', 'refused', 'failed']),
  status: Type.Integer(),
  route: Nullable(Type.String()),
  reason: Type.String(),
  to: Nullable(Type.String({ description: 'where a redirect leads, or the nearest real address' })),
})
export type Trial = Static<typeof Trial>

const Unanswered = Type.Object({
  path: Type.String(),
  times: Type.Integer(),
  lastAt: Type.String({ format: 'date-time' }),
  nearest: Nullable(RouteAddress),
})
export type Unanswered = Static<typeof Unanswered>

export const SlugAnswer = Type.Object({
  slug: Type.String(),
  free: Type.Boolean(),
  note: Nullable(Type.String()),
  suggestion: Type.String(),
  address: Nullable(Type.String({ description: 'what its address would be' })),
})
export type SlugAnswer = Static<typeof SlugAnswer>

const Kind = SlugChangeRequest.properties.kind
const Name = Type.String({ minLength: 1, maxLength: 60 })

export const StartingPoint = Type.Object({
  changes: Type.Array(
    Type.Object({
      document: Type.String(),
      text: Type.String(),
      before: Type.String({ description: 'empty for a new document' }),
      version: Type.Integer(),
    }),
  ),
  address: Type.String({ description: 'to look at once it is applied' }),
})
export type StartingPoint = Static<typeof StartingPoint>

export const routeOperations = {
  'GET /api/routes': {
    summary: 'The routes in order, with how many addresses each has',
    answer: Type.Array(RouteSummary),
  },
  'GET /api/routes/addresses': {
    summary: 'Real addresses of a route',
    query: Type.Object(
      { route: Name, page: Type.Optional(Type.String({ pattern: '^[1-9][0-9]{0,5}$' })) },
      closed,
    ),
    answer: Type.Object({
      addresses: Type.Array(RouteAddress),
      total: Nullable(Type.Integer()),
      size: Type.Integer(),
    }),
  },
  'POST /api/routes/try': {
    summary: 'What becomes of pasted addresses, and why',
    body: Type.Object(
      { addresses: Type.Array(Type.String({ maxLength: 9_000 }), { maxItems: 200 }) },
      closed,
    ),
    answer: Type.Array(Trial),
  },
  'POST /api/routes/build': {
    summary: 'The address of a route for given parameters',
    body: Type.Object(
      { route: Name, parameters: Type.Record(Type.String(), Type.String({ maxLength: 500 })) },
      closed,
    ),
    answer: Type.Object({
      path: Nullable(Type.String()),
      message: Nullable(Type.String()),
      template: Type.String({ description: 'how a template writes it' }),
    }),
  },
  'GET /api/unanswered': {
    summary: 'Addresses that readers asked for in vain, most often first',
    answer: Type.Array(Unanswered),
  },
  'DELETE /api/unanswered': {
    summary: 'Forget one of them',
    query: Type.Object({ path: Type.String({ maxLength: 600 }) }, closed),
    answer: Type.Object({ forgotten: Type.Boolean() }),
  },
  'GET /api/slug': {
    summary: 'Whether a slug is free, or what a title would make',
    query: Type.Object(
      {
        kind: Kind,
        text: Type.String({ maxLength: 300 }),
        from: Type.Optional(Type.Enum(['title', 'slug'])),
        own: Type.Optional(
          Type.String({ maxLength: 500, description: 'slug, or path, of the row being edited' }),
        ),
      },
      closed,
    ),
    answer: SlugAnswer,
  },
  'PUT /api/slug': {
    summary: 'Give something another slug, or move a page; old addresses lead on',
    body: Type.Object({ ...SlugChangeRequest.properties }, closed),
    answer: Type.Object({
      current: Type.String(),
      address: Nullable(Type.String()),
      former: Type.Array(Type.String(), { description: 'slugs or paths that lead on from now on' }),
      note: Nullable(
        Type.String({ description: 'what readers will see there instead, if another route answers' }),
      ),
    }),
  },
  'POST /api/starting-point': {
    summary: 'A route with its query and template, as changes that are not applied yet',
    body: Type.Object(
      {
        kind: Type.Enum(['listing', 'single', 'category', 'page', 'month', 'redirect']),
        name: Type.String({ pattern: '^[a-z][a-z0-9]*(-[a-z0-9]+)*$', maxLength: 40 }),
        path: Type.String({ pattern: '^/', maxLength: 200 }),
        to: Type.Optional(
          Type.String({ minLength: 1, maxLength: 500, description: 'where a redirect leads' }),
        ),
      },
      closed,
    ),
    answer: StartingPoint,
  },
} as const
