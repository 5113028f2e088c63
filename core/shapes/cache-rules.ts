/** The shape of cache.yaml: how copies of pages and fragments are refreshed. */
import { Type, type Static } from 'typebox'

const closed = { additionalProperties: false } as const

export const REFRESH_MODES = ['on-change', 'by-age', 'both'] as const
export type RefreshMode = (typeof REFRESH_MODES)[number]

const Refresh = Type.Enum([...REFRESH_MODES])
const Duration = Type.String({ pattern: '^(0|[1-9][0-9]{0,6})[smhd]$', description: '45s, 30m, 1h or 7d' })
const RouteName = Type.String({ pattern: '^[a-z][a-z0-9]*(-[a-z0-9]+)*$', maxLength: 60 })

export const PageRule = Type.Object(
  {
    /** `on-change`: until something that the page shows changes. `by-age`: for its lifetime, whatever changes. */
    refresh: Type.Optional(Refresh),
    /** How long a copy is fresh. */
    lifetime: Type.Optional(Duration),
    /** How long after that an old copy may answer while a new one is rendered (RFC 5861 §3). */
    'stale-while-revalidate': Type.Optional(Duration),
    /** How long after that an old copy may answer if the page cannot be rendered (RFC 5861 §4). */
    'stale-if-error': Type.Optional(Duration),
  },
  closed,
)
export type PageRule = Static<typeof PageRule>

const FragmentRule = Type.Object({ refresh: Refresh }, closed)

/** Pages in an edge cache, which is purged on change. */
const EdgeRule = Type.Object(
  {
    /** The longest time for which it stores a page, and for which a page can be stale if a purge fails. */
    lifetime: Duration,
  },
  closed,
)

export const CacheRules = Type.Object(
  {
    /** By route. */
    pages: Type.Optional(Type.Record(RouteName, PageRule, { maxProperties: 500 })),
    /** By the name of the fragment. Its lifetime is in its tag. */
    fragments: Type.Optional(Type.Record(RouteName, FragmentRule, { maxProperties: 500 })),
    edge: Type.Optional(EdgeRule),
  },
  closed,
)
export type CacheRules = Static<typeof CacheRules>
