/** Every operation of the workbench's API: one source for validation, types, the client and the OpenAPI document. */
import { Type, type Static, type TSchema } from 'typebox'
import { Nullable } from '../core/shapes/nullable.ts'
import { Gets, WalkRecord } from './walk-record.ts'
import { checkOperations } from './checks.ts'
import { growthOperations } from './growth.ts'
import { contentOperations } from './content.ts'
import { postOperations } from './posts.ts'
import { queryOperations } from './queries.ts'
import { routeOperations } from './routes.ts'
import { ProblemItem } from './problem-item.ts'

/** RFC 9457 problem details, with the places of problems in documents. */
export const ProblemDetails = Type.Object({
  type: Type.String(),
  title: Type.String(),
  status: Type.Integer(),
  detail: Type.Optional(Type.String()),
  problems: Type.Optional(Type.Array(ProblemItem)),
  /** At a conflict: the document, and the version and text that are stored now. */
  document: Type.Optional(Type.String()),
  version: Type.Optional(Type.Integer()),
  text: Type.Optional(Type.String()),
})
export type ProblemDetails = Static<typeof ProblemDetails>

const DocumentPath = Type.String({
  minLength: 1,
  maxLength: 200,
  description: 'e.g. routes.yaml or content/posts/SLUG.md',
})

export const DocumentSummary = Type.Object({
  path: Type.String(),
  kind: Type.String(),
  version: Type.Integer(),
  characters: Type.Integer(),
})
export type DocumentSummary = Static<typeof DocumentSummary>

const DocumentText = Type.Object({ path: Type.String(), text: Type.String(), version: Type.Integer() })
export type DocumentText = Static<typeof DocumentText>

export const TrafficItem = Type.Object({
  id: Type.String(),
  at: Type.String({ format: 'date-time' }),
  method: Type.String(),
  target: Type.String(),
  status: Type.Integer(),
  route: Type.Union([Type.String(), Type.Null()]),
  gets: Gets,
  fragments: Type.Object({ hits: Type.Integer(), total: Type.Integer() }),
  milliseconds: Type.Number(),
})
export type TrafficItem = Static<typeof TrafficItem>

export const CopyItem = Type.Object({
  key: Type.String(),
  name: Type.String(),
  bytes: Type.Integer(),
  ageMilliseconds: Type.Number(),
  remainingMilliseconds: Type.Number(),
  tags: Type.Array(Type.String()),
})
export type CopyItem = Static<typeof CopyItem>

export const Suggestion = Type.Object({
  label: Type.String({ description: 'what the address shows' }),
  path: Type.String(),
  document: Type.Union([Type.String(), Type.Null()], { description: 'a document worth opening there' }),
})
export type Suggestion = Static<typeof Suggestion>

export const Session = Type.Object({
  title: Type.String(),
  blog: Type.String({ description: 'where readers reach the blog' }),
  version: Type.String({ description: 'of the definition in force' }),
  start: Type.String({ description: 'the address to walk first' }),
})
export type Session = Static<typeof Session>

interface Operation {
  summary: string
  query?: TSchema
  body?: TSchema
  /** The body is a file, not JSON. */
  upload?: boolean
  answer: TSchema
}
const operation = <const T extends Operation>(one: T): T => one

const SaveAnswer = Type.Object({
  path: Type.String({ description: 'where the document is now: a post’s slug may have changed' }),
  version: Type.Integer(),
  purged: Type.Array(Type.String(), { description: 'keys of the kept copies that had to go' }),
})

export const operations = {
  'GET /api/session': operation({ summary: 'What this workbench works on', answer: Session }),
  'GET /api/walk': operation({
    summary: 'Walk one request: every stage, with its reasons',
    query: Type.Object(
      {
        path: Type.String({
          minLength: 1,
          maxLength: 20_000,
          description: 'path and query, e.g. /posts?page=2',
        }),
        as: Type.Optional(Type.Enum(['reader', 'author'])),
        gets: Type.Optional(Gets),
        method: Type.Optional(Type.Enum(['GET', 'HEAD', 'OPTIONS', 'PUT', 'DELETE'])),
      },
      { additionalProperties: false },
    ),
    answer: WalkRecord,
  }),
  'GET /api/suggestions': operation({ summary: 'Addresses worth walking', answer: Type.Array(Suggestion) }),
  'GET /api/documents': operation({
    summary: 'The documents of the definition',
    answer: Type.Array(DocumentSummary),
  }),
  'GET /api/document': operation({
    summary: 'One document, or one post or page as a Markdown file',
    query: Type.Object({ path: DocumentPath }, { additionalProperties: false }),
    answer: DocumentText,
  }),
  'PUT /api/document': operation({
    summary: 'Save a document, a post or a page; a faulty one changes nothing',
    body: Type.Object(
      {
        path: DocumentPath,
        text: Type.String({ maxLength: 600_000 }),
        version: Type.Integer({ minimum: 0, description: 'the version that was read; 0 for a new document' }),
      },
      { additionalProperties: false },
    ),
    answer: SaveAnswer,
  }),
  'POST /api/document/remove': operation({
    summary: 'Take a document of the definition out; refused while anything names it',
    body: Type.Object(
      { path: DocumentPath, version: Type.Integer({ minimum: 1, description: 'the version that was read' }) },
      { additionalProperties: false },
    ),
    answer: Type.Object({ path: Type.String() }),
  }),
  'PUT /api/documents': operation({
    summary: 'Save several documents, all or none',
    body: Type.Object(
      {
        changes: Type.Array(
          Type.Object(
            {
              path: DocumentPath,
              text: Nullable(Type.String({ maxLength: 600_000, description: 'null takes it out' })),
              version: Type.Integer({ minimum: 0 }),
            },
            { additionalProperties: false },
          ),
          { minItems: 1, maxItems: 50 },
        ),
      },
      { additionalProperties: false },
    ),
    answer: Type.Object({
      versions: Type.Record(Type.String(), Type.Integer(), { description: 'of those that are there' }),
    }),
  }),
  'POST /api/document/check': operation({
    summary: 'What is wrong with a document, without saving it',
    body: Type.Object(
      { path: DocumentPath, text: Type.String({ maxLength: 600_000 }) },
      { additionalProperties: false },
    ),
    answer: Type.Object({ problems: Type.Array(ProblemItem) }),
  }),
  'GET /api/traffic': operation({
    summary: 'The blog’s recent requests, newest first',
    answer: Type.Array(TrafficItem),
  }),
  'GET /api/copies': operation({
    summary: 'The fragments kept now',
    answer: Type.Object({ copies: Type.Array(CopyItem), bytes: Type.Integer() }),
  }),
  'DELETE /api/copies': operation({
    summary: 'Forget every kept fragment',
    answer: Type.Object({ dropped: Type.Integer() }),
  }),
  ...routeOperations,
  ...postOperations,
  ...contentOperations,
  ...queryOperations,
  ...growthOperations,
  ...checkOperations,
}

export type Operations = typeof operations
export type OperationName = keyof Operations
type SchemaOf<Name extends OperationName, Key extends string> =
  Operations[Name] extends Record<Key, infer S extends TSchema> ? Static<S> : undefined
export type QueryOf<Name extends OperationName> = SchemaOf<Name, 'query'>
export type BodyOf<Name extends OperationName> = SchemaOf<Name, 'body'>
export type AnswerOf<Name extends OperationName> = SchemaOf<Name, 'answer'>

export type { ProblemItem, WalkRecord }
export type { Appearance, Post, PostList, PostOutcomes, PostSummary } from './posts.ts'
export type { QueryPlan, QuerySummary, QueryTrial } from './queries.ts'
export type { CheckFinding, CheckReport } from './checks.ts'
export type { ImageItem, Page, PageSummary, Term } from './content.ts'
export type { RouteAddress, RouteSummary, SlugAnswer, StartingPoint, Trial, Unanswered } from './routes.ts'
export type {
  WalkCandidate,
  WalkFailure,
  WalkFragment,
  WalkParameter,
  WalkPlace,
  WalkQuery,
  WalkTemplate,
} from './walk-record.ts'
