/** Operations of the Walk area: walks, suggested addresses, and the blog's recent requests. */
import { Type, type Static } from 'typebox'
import { Nullable } from '../core/shapes/nullable.ts'
import { closed, Milliseconds, Time } from './fields.ts'
import type { OperationGroup } from './operation.ts'
import { QueryPlan } from './queries.ts'
import { Accepts, WalkRecord } from './walk-record.ts'

export const TrafficItem = Type.Object({
  id: Type.String(),
  at: Time,
  method: Type.String(),
  target: Type.String(),
  status: Type.Integer(),
  route: Nullable(Type.String()),
  accepts: Accepts,
  fragments: Type.Object({ hits: Type.Integer(), total: Type.Integer() }),
  milliseconds: Milliseconds,
})
export type TrafficItem = Static<typeof TrafficItem>

export const Suggestion = Type.Object({
  label: Type.String({ description: 'what the address shows' }),
  path: Type.String(),
  document: Nullable(Type.String({ description: 'a document worth opening there' })),
})
export type Suggestion = Static<typeof Suggestion>

const as = Type.Optional(Type.Enum(['reader', 'author']))

export const walkOperations = {
  'GET /api/walk': {
    summary: 'Walk a request: every stage with its reasons',
    query: Type.Object(
      {
        path: Type.String({
          minLength: 1,
          maxLength: 20_000,
          description: 'path and query string, e.g. /posts?page=2',
        }),
        as,
        accepts: Type.Optional(Accepts),
        kept: Type.Optional(
          Type.Enum(['true', 'false'], {
            description: 'false to render everything: no stored fragment is used',
          }),
        ),
        method: Type.Optional(Type.Enum(['GET', 'HEAD', 'OPTIONS', 'PUT', 'DELETE'])),
      },
      closed,
    ),
    answer: WalkRecord,
  },
  'GET /api/walk/plan': {
    summary: 'Walk a request again and explain how PostgreSQL runs the statements of one of its data',
    query: Type.Object(
      {
        path: Type.String({ minLength: 1, maxLength: 4_000 }),
        as,
        accepts: Type.Optional(Accepts),
        data: Type.String({ maxLength: 60, description: 'name of the data in templates' }),
      },
      closed,
    ),
    answer: QueryPlan,
  },
  'GET /api/suggestions': { summary: 'Suggest addresses to walk', answer: Type.Array(Suggestion) },
  'GET /api/traffic': {
    summary: 'List the blog’s recent requests, newest first',
    answer: Type.Array(TrafficItem),
  },
} as const satisfies OperationGroup
