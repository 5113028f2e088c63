/** Operations of the Comments area: the queue, what becomes of comments, and their writers. */
import { Type, type Static } from 'typebox'
import { COMMENT_STATES } from '../core/shapes/content-kinds.ts'
import { Nullable } from '../core/shapes/nullable.ts'
import { CommentRules } from '../core/shapes/comment-rules.ts'
import { Address, closed, Insist, LARGEST_ID, Policy, Purged, Slug, Time, Version } from './fields.ts'
import type { OperationGroup } from './operation.ts'

const Id = Type.Integer({ minimum: 1, maximum: LARGEST_ID })
const State = Type.Enum([...COMMENT_STATES])

export const CommentReasonItem = Type.Object(
  {
    code: Type.String({ description: 'e.g. links, unknown-writer or score' }),
    links: Type.Optional(Type.Integer()),
    allowed: Type.Optional(Type.Integer()),
    word: Type.Optional(Type.String()),
    seconds: Type.Optional(Type.Integer()),
    least: Type.Optional(Type.Number()),
    times: Type.Optional(Type.Integer()),
    name: Type.Optional(Type.String()),
    score: Type.Optional(Type.Number()),
  },
  { description: 'why a comment was not simply shown' },
)
export type CommentReasonItem = Static<typeof CommentReasonItem>

export const CommentItem = Type.Object({
  id: Id,
  version: Type.Integer(),
  state: State,
  name: Type.String(),
  text: Type.String({ description: 'the start of the text' }),
  at: Time,
  post: Type.Object({ slug: Type.String(), title: Type.String() }),
  byAuthor: Type.Boolean({ description: 'whether it was written in the workbench' }),
  depth: Type.Integer({ description: '0 for a comment on the post' }),
  isHidden: Type.Boolean({ description: 'whether readers do not see it because of a comment above it' }),
  reasons: Type.Array(CommentReasonItem),
  score: Nullable(Type.Number({ description: 'probability of spam when it was sent' })),
  shownBefore: Type.Integer({ description: 'other comments of the same writer that are shown, up to 99' }),
})
export type CommentItem = Static<typeof CommentItem>

const Counts = Type.Object({
  waiting: Type.Integer(),
  shown: Type.Integer(),
  spam: Type.Integer(),
  deleted: Type.Integer(),
})
export type CommentCounts = Static<typeof Counts>

export const CommentDetail = Type.Object({
  id: Id,
  version: Type.Integer(),
  state: State,
  stateAt: Time,
  name: Type.String(),
  email: Type.String(),
  site: Type.String(),
  text: Type.String(),
  at: Time,
  editedAt: Nullable(Time),
  edits: Type.Array(Type.Object({ at: Type.String(), name: Type.String(), text: Type.String() }), {
    description: 'what it was before it was edited, oldest first',
  }),
  byAuthor: Type.Boolean(),
  isHidden: Type.Boolean(),
  reasons: Type.Array(CommentReasonItem),
  score: Nullable(Type.Number()),
  filledIn: Nullable(Type.Integer({ description: 'milliseconds for which the form was open' })),
  words: Type.Object({
    decisions: Type.Integer({ description: 'how many decisions the weights are learned from' }),
    weights: Type.Array(
      Type.Object({
        word: Type.String(),
        weight: Type.Number({ description: 'above 0 for spam, below 0 for comments that are shown' }),
      }),
    ),
  }),
  post: Type.Object({ slug: Type.String(), title: Type.String(), author: Nullable(Type.String()) }),
  replyTo: Nullable(Type.Object({ id: Id, name: Type.String(), state: State })),
  writer: Type.Object({
    ...Counts.properties,
    known: Type.Enum(['browser', 'email', 'nothing'], { description: 'how other comments are recognised' }),
  }),
})
export type CommentDetail = Static<typeof CommentDetail>

const Ref = Type.Object({ id: Id, version: Version }, closed)

const Done = Type.Object({
  step: Nullable(Type.String({ description: 'the step by which this can be undone' })),
  purged: Purged,
})

export const commentOperations = {
  'GET /api/comments': {
    summary: 'List comments of a state, newest first, filtered by words, post or writer',
    query: Type.Object(
      {
        state: Type.Optional(State),
        search: Type.Optional(
          Type.String({
            maxLength: 200,
            description:
              'part of the name, the e-mail address, the text or the post’s title, or a network address',
          }),
        ),
        post: Type.Optional(Slug),
        writer: Type.Optional(
          Type.String({ pattern: '^[1-9][0-9]{0,8}$', description: 'a comment of the writer' }),
        ),
        before: Type.Optional(
          Type.String({ pattern: '^[1-9][0-9]{0,8}$', description: 'the last comment of the page before' }),
        ),
        size: Type.Optional(Type.String({ pattern: '^([1-9][0-9]{0,2}|1000)$' })),
      },
      closed,
    ),
    answer: Type.Object({ comments: Type.Array(CommentItem), counts: Counts, isMore: Type.Boolean() }),
  },
  'GET /api/comments/waiting': {
    summary: 'Return how many comments wait',
    answer: Type.Object({ waiting: Type.Integer(), newest: Type.Integer({ description: 'the largest id' }) }),
  },
  'GET /api/comment': {
    summary: 'Return a comment with why it waits and what its writer did before',
    query: Type.Object({ id: Type.String({ pattern: '^[1-9][0-9]{0,8}$' }) }, closed),
    answer: CommentDetail,
    versioning: 'read',
  },
  'GET /api/comment/page': {
    summary: 'Return the page of the post as readers would see it if the comment were shown',
    query: Type.Object({ id: Type.String({ pattern: '^[1-9][0-9]{0,8}$' }) }, closed),
    answer: Type.Object({ status: Type.Integer(), path: Address, html: Type.String(), policy: Policy }),
  },
  'POST /api/comments/moderate': {
    summary: 'Set the state of comments, all or none',
    body: Type.Object({ comments: Type.Array(Ref, { minItems: 1, maxItems: 1_000 }), state: State }, closed),
    answer: Done,
  },
  'POST /api/comments/reply': {
    summary: 'Reply to a comment as the author; a comment that waits is shown with it',
    body: Type.Object({ comment: Id, text: Type.String({ minLength: 1, maxLength: 20_000 }) }, closed),
    answer: Type.Object({ ...Done.properties, id: Id }),
  },
  'PUT /api/comment': {
    summary: 'Change the name and the text of a comment; what it was is kept',
    body: Type.Object(
      {
        id: Id,
        version: Version,
        name: Type.String({ minLength: 1, maxLength: 200 }),
        text: Type.String({ minLength: 1, maxLength: 20_000 }),
      },
      closed,
    ),
    answer: Type.Object({ ...Done.properties, version: Type.Integer() }),
    versioning: 'change',
  },
  'POST /api/comments/import': {
    summary: 'Import comments of existing posts, all or none; those that exist already stay as they are',
    body: Type.Object(
      {
        format: Type.Enum(['json', 'csv']),
        text: Type.String({ maxLength: 2_500_000, description: 'a file as it is exported' }),
      },
      closed,
    ),
    answer: Type.Object({ ...Done.properties, imported: Type.Integer(), unchanged: Type.Integer() }),
  },
  'GET /api/comments/rules': {
    summary: 'Return the comment rules as they are declared',
    answer: Type.Object({
      version: Type.Integer({ description: 'of blog.yaml' }),
      rules: CommentRules,
      routes: Type.Array(Type.String(), { description: 'routes that change rules for their form' }),
    }),
    versioning: 'read',
  },
  'PUT /api/comments/rules': {
    summary: 'Declare the comment rules; the rest of blog.yaml stays as it is',
    body: Type.Object({ version: Version, rules: CommentRules, insist: Insist }, closed),
    answer: Type.Object({ ...Done.properties, version: Type.Integer() }),
    versioning: 'change',
  },
  'GET /api/comments/outside': {
    summary: 'Return the outside service in force, and how many comments are here and there',
    answer: Type.Object({
      service: Nullable(Type.String({ description: 'its origin; null without one' })),
      test: Nullable(
        Type.String({ description: 'the origin of the built-in test service; null where it is not running' }),
      ),
      here: Type.Integer(),
      there: Nullable(Type.Integer({ description: 'null if it cannot be asked' })),
      problem: Nullable(Type.String()),
    }),
  },
  'POST /api/comments/outside/send': {
    summary:
      'Copy all comments to the outside service, without e-mail addresses; known ones stay as they are',
    body: Type.Object({}, closed),
    answer: Type.Object({ added: Type.Integer(), known: Type.Integer() }),
  },
  'POST /api/comments/outside/fetch': {
    summary: 'Copy comments from the outside service; known ones stay as they are',
    body: Type.Object({}, closed),
    answer: Type.Object({
      ...Done.properties,
      imported: Type.Integer(),
      known: Type.Integer(),
      lost: Type.Integer({
        description: 'comments whose thread belongs to no post, or that have no name or text',
      }),
    }),
  },
  'POST /api/comments/rules/preview': {
    summary: 'Render a post with its comment form as readers would see it with other rules',
    body: Type.Object(
      {
        rules: CommentRules,
        isSent: Type.Boolean({ description: 'true for the form after it was sent empty' }),
      },
      closed,
    ),
    readOnly: true,
    answer: Type.Object({ status: Type.Integer(), path: Address, html: Type.String(), policy: Policy }),
  },
  'POST /api/comments/erase': {
    summary:
      'Erase all comments of the writer of a comment, with everything that is stored of them, for good',
    body: Type.Object({ comment: Id }, closed),
    answer: Type.Object({
      deleted: Type.Integer(),
      emptied: Type.Integer({
        description: 'comments of which only the place remains, because others replied',
      }),
      purged: Purged,
    }),
  },
} as const satisfies OperationGroup
