/** Operations of the Walk area: walks, suggested addresses, and the blog's recent requests. */
import { Type, type Static } from 'typebox'
import { Nullable } from '../core/shapes/nullable.ts'
import { closed, Milliseconds, Purged, Time } from './fields.ts'
import type { OperationGroup } from './operation.ts'
import { QueryPlan } from './queries.ts'
import { Accepts, SubmissionResult, WalkRecord } from './walk-record.ts'

export const TrafficItem = Type.Object({
  id: Type.String(),
  at: Time,
  method: Type.String(),
  target: Type.String(),
  status: Type.Integer(),
  route: Nullable(Type.String()),
  accepts: Accepts,
  copy: Type.Boolean({ description: 'whether a copy of the whole page answered' }),
  fragments: Type.Object({ hits: Type.Integer(), total: Type.Integer() }),
  milliseconds: Milliseconds,
  submission: Nullable(SubmissionResult),
})
export type TrafficItem = Static<typeof TrafficItem>

export const Suggestion = Type.Object({
  label: Type.String({ description: 'what the address shows' }),
  path: Type.String(),
  document: Nullable(Type.String({ description: 'a document worth opening there' })),
})
export type Suggestion = Static<typeof Suggestion>

/** Text as it was typed. The blog itself rejects what is too long, with a reason. */
const Text = Type.String({ maxLength: 60_000 })

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
  'POST /api/walk/submission': {
    summary: 'Walk a comment form: rehearse it, or send it',
    body: Type.Object(
      {
        path: Type.String({ minLength: 1, maxLength: 4_000, description: 'of the page with the form' }),
        fields: Type.Object(
          { name: Text, email: Text, site: Text, text: Text, parent: Type.Optional(Text) },
          closed,
        ),
        isHoneypotFilled: Type.Optional(Type.Boolean()),
        seconds: Type.Optional(
          Type.Integer({ minimum: 0, maximum: 700_000, description: 'for which the form was open' }),
        ),
        token: Type.Optional(
          Type.Enum(['own', 'missing', 'foreign'], { description: 'foreign: of another reader' }),
        ),
        writer: Type.Optional(
          Type.Enum(['new', 'workbench'], {
            description: 'a new browser, or the same one for all submissions that are walked',
          }),
        ),
        client: Type.Optional(Type.String({ maxLength: 60, description: 'network address' })),
        keep: Type.Boolean({ description: 'whether it is sent; otherwise it is rehearsed and rolled back' }),
      },
      closed,
    ),
    answer: Type.Object({
      purged: Purged,
      walk: WalkRecord,
      next: Nullable(
        Type.Object(
          { walk: WalkRecord, isSeenByWriter: Type.Boolean(), isSeenByOthers: Type.Boolean() },
          { description: 'the page that the writer is sent to; null if the form is shown again' },
        ),
      ),
    }),
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

export type SubmissionWalk = Static<(typeof walkOperations)['POST /api/walk/submission']['answer']>
