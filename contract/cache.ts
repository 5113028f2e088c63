/** Operations of the Cache area. */
import { Type, type Static } from 'typebox'
import { CHANGE_COLUMNS, type Cell, type ChangeColumn } from '../core/caching/matrix.ts'
import { REFRESH_MODES } from '../core/shapes/cache-rules.ts'
import { closed, Milliseconds, Time } from './fields.ts'
import { Nullable } from '../core/shapes/nullable.ts'
import type { OperationGroup } from './operation.ts'

const Kind = Type.Enum(['page', 'fragment'])

export const CopyItem = Type.Object({
  kind: Kind,
  key: Type.String(),
  name: Type.String(),
  bytes: Type.Integer(),
  ageMilliseconds: Type.Number(),
  remainingMilliseconds: Type.Number(),
  address: Nullable(Type.String({ description: 'of a page: path and query string' })),
  uses: Type.Integer({ description: 'of a page: how many requests it has answered' }),
  dependsOn: Type.Array(Type.String(), {
    description: 'results of queries, counts and rows, e.g. latest-posts() or posts:31',
  }),
  refreshedByAge: Type.Array(Type.String(), { description: 'what it shows, and a change does not refresh' }),
})
export type CopyItem = Static<typeof CopyItem>

const Cells = Type.Unsafe<Record<ChangeColumn, Cell>>(
  Type.Record(Type.Enum([...CHANGE_COLUMNS]), Type.Enum(['refreshed', 'gap', 'part', 'none']), {
    description: 'what a change of each kind does; null if nothing could be rendered',
  }),
)

export const RuleItem = Type.Object({
  kind: Kind,
  name: Type.String({ description: 'a route or a fragment' }),
  oneCopyFor: Type.Array(Type.String(), { description: 'what the key consists of, beside the definition' }),
  refresh: Type.Enum([...REFRESH_MODES]),
  lifetime: Milliseconds,
  staleWhileRevalidate: Milliseconds,
  staleIfError: Milliseconds,
  stalest: Type.Number({ description: 'how long readers may see what was before a change, in milliseconds' }),
  document: Type.String(),
  line: Nullable(Type.Integer()),
  notKept: Nullable(Type.String({ description: 'why no copy is kept' })),
  cells: Nullable(Cells),
  copies: Type.Integer(),
  bytes: Type.Integer(),
  hits: Type.Integer({ description: 'in the last hour' }),
  misses: Type.Integer(),
  bypasses: Type.Integer({ description: 'rendered for one reader alone' }),
  savedMilliseconds: Nullable(
    Type.Number({ description: 'what rendering takes on average; null without a measurement' }),
  ),
})
export type RuleItem = Static<typeof RuleItem>

const Slug = Type.String({ minLength: 1, maxLength: 200 })
const To = Type.Optional(Type.String({ minLength: 1, maxLength: 200, description: 'the new value' }))

export const RehearsedChange = Type.Union([
  Type.Object({ kind: Type.Literal('title'), post: Slug, to: To }, closed),
  Type.Object({ kind: Type.Literal('slug'), post: Slug, to: To }, closed),
  Type.Object({ kind: Type.Enum(['publish', 'unpublish', 'comment']), post: Slug }, closed),
  Type.Object({ kind: Type.Literal('category'), post: Slug, category: Slug }, closed),
  Type.Object({ kind: Type.Literal('rename'), category: Slug, to: To }, closed),
  Type.Object({ kind: Type.Literal('move-page'), page: Slug }, closed),
  Type.Object({ kind: Type.Literal('time'), until: Time }, closed),
  Type.Object({ kind: Type.Literal('template'), template: Slug }, closed),
  Type.Object({ kind: Type.Literal('setting'), to: To }, closed),
])
export type RehearsedChange = Static<typeof RehearsedChange>

const Named = {
  kind: Kind,
  name: Type.String(),
  address: Nullable(Type.String()),
}
const RehearsedCopy = Type.Object({
  ...Named,
  why: Type.String(),
  isSame: Type.Boolean({ description: 'whether the same text is rendered again' }),
})
export type RehearsedCopy = Static<typeof RehearsedCopy>
const StaleCopy = Type.Object({
  ...Named,
  why: Type.String(),
  longestMilliseconds: Milliseconds,
  before: Type.String(),
  after: Type.String(),
  addresses: Type.Array(Type.String(), { description: 'where readers see the old text' }),
})
export type StaleCopy = Static<typeof StaleCopy>

export const CopyRehearsal = Type.Object({
  what: Type.String({ description: 'the change, as a clause' }),
  rendered: Type.Integer({ description: 'how many addresses were rendered before and after the change' }),
  addresses: Type.Integer({ description: 'how many there are' }),
  refreshed: Type.Array(RehearsedCopy),
  kept: Type.Integer(),
  keptButDifferent: Type.Array(Type.Object(Named), { description: 'empty, unless Esquina has a fault' }),
  stale: Type.Array(StaleCopy),
  statuses: Type.Array(
    Type.Object({ address: Type.String(), before: Type.Integer(), after: Type.Integer() }),
    { description: 'addresses that answer with another status' },
  ),
})
export type CopyRehearsal = Static<typeof CopyRehearsal>

const Difference = Type.Object({ ...Named, before: Type.String(), after: Type.String() })

export const AuditReport = Type.Union([
  Type.Object({ state: Type.Literal('none') }),
  Type.Object({ state: Type.Literal('running'), done: Type.Integer(), of: Type.Integer() }),
  Type.Object({ state: Type.Literal('failed'), message: Type.String() }),
  Type.Object({
    state: Type.Literal('done'),
    at: Time,
    addresses: Type.Integer(),
    stored: Type.Integer({ description: 'how many copies there were at the start' }),
    compared: Type.Integer(),
    same: Type.Integer(),
    byAge: Type.Integer({ description: 'different, and showing something that only age refreshes' }),
    different: Type.Array(Difference),
  }),
])
export type AuditReport = Static<typeof AuditReport>

const EdgeCopyItem = Type.Object({
  address: Type.String(),
  type: Type.String({ description: 'content type' }),
  encoding: Type.String({ description: 'content encoding; empty without one' }),
  groups: Type.Array(Type.String(), { description: 'groups by which it is purged' }),
  bytes: Type.Integer(),
  uses: Type.Integer({ description: 'how many requests it has answered' }),
  remainingMilliseconds: Milliseconds,
})
export type EdgeCopyItem = Static<typeof EdgeCopyItem>

export const EdgeReport = Type.Object({
  lifetimeMilliseconds: Nullable(
    Type.Number({ description: 'the longest time for which it stores a page; null if it is off' }),
  ),
  purger: Nullable(
    Type.Object(
      {
        isCurrent: Type.Boolean({ description: 'whether all changes so far are purged' }),
        behindSince: Nullable(Time),
        error: Nullable(Type.String()),
        calls: Type.Integer({ description: 'confirmed purges' }),
        lastAt: Nullable(Time),
        lastGroups: Nullable(Type.Array(Type.String(), { description: 'null for everything' })),
      },
      { description: 'null if the edge cache is off' },
    ),
  ),
  standIn: Nullable(
    Type.Object(
      {
        origin: Type.String({ description: 'its address for readers' }),
        hits: Type.Integer({ description: 'answered without a request to the blog' }),
        revalidated: Type.Integer({
          description: 'answered with a stored response that the blog has revalidated',
        }),
        misses: Type.Integer({ description: 'fetched from the blog and stored' }),
        passed: Type.Integer({ description: 'fetched from the blog and not stored' }),
        bytes: Type.Integer(),
        total: Type.Integer({ description: 'the number of stored responses' }),
        copies: Type.Array(EdgeCopyItem, { description: 'the ones that were used last' }),
      },
      { description: 'the built-in edge cache; null if another one is used' },
    ),
  ),
})
export type EdgeReport = Static<typeof EdgeReport>

export const cacheOperations = {
  'GET /api/copies': {
    summary: 'List the stored copies of pages and fragments',
    answer: Type.Object({
      copies: Type.Array(CopyItem),
      bytes: Type.Integer(),
      processes: Type.Integer({
        description: 'the number of processes that serve readers, each with its own copies',
      }),
      shared: Nullable(
        Type.Object(
          {
            isAvailable: Type.Boolean({ description: 'whether all processes can use Redis' }),
            taken: Type.Integer({ description: 'pages that another process has rendered' }),
            refused: Type.Integer({ description: 'found, but possibly stale' }),
            missing: Type.Integer(),
            put: Type.Integer(),
          },
          { description: 'copies that processes share in Redis; null without REDIS_URL' },
        ),
      ),
    }),
  },
  'GET /api/copy': {
    summary: 'Return the text of a copy',
    query: Type.Object({ key: Type.String({ maxLength: 4_000 }) }, closed),
    answer: Type.Object({ text: Nullable(Type.String({ description: 'null if it was dropped' })) }),
  },
  'DELETE /api/copy': {
    summary: 'Drop a copy, in all processes',
    query: Type.Object({ key: Type.String({ maxLength: 4_000 }) }, closed),
    answer: Type.Object({ dropped: Type.Integer() }),
  },
  'GET /api/cache/rules': {
    summary: 'List the rules for copies, what refreshes them, and how often they have answered',
    answer: Type.Object({ rules: Type.Array(RuleItem), limitBytes: Type.Integer() }),
  },
  'POST /api/cache/rehearse': {
    summary: 'Return which copies a change refreshes, keeps, or leaves as they are, without saving it',
    body: Type.Object({ change: RehearsedChange }, closed),
    answer: CopyRehearsal,
    readOnly: true,
  },
  'GET /api/cache/audit': {
    summary: 'Return the state of the comparison of all copies with what would be rendered now',
    answer: AuditReport,
  },
  'POST /api/cache/audit': {
    summary: 'Compare all copies with what would be rendered now',
    answer: Type.Object({ started: Type.Boolean({ description: 'false if a comparison is running' }) }),
  },
  'DELETE /api/cache/audit': {
    summary: 'Cancel the comparison',
    answer: Type.Object({ cancelled: Type.Boolean() }),
  },
  'GET /api/cache/edge': {
    summary: 'Return the state of the edge cache: its lifetime, its purges and its stored responses',
    answer: EdgeReport,
  },
  'DELETE /api/cache/edge': {
    summary: 'Purge everything from the edge cache',
    answer: Type.Object({
      confirmed: Type.Boolean({ description: 'whether the edge cache has confirmed the purge' }),
    }),
  },
  'DELETE /api/copies': {
    summary: 'Clear the cache',
    answer: Type.Object({ dropped: Type.Integer({ description: 'the number of dropped copies' }) }),
  },
} as const satisfies OperationGroup
