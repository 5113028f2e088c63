/** A rule: one file in `rules/`. */
import type { Facts } from './facts.ts'
import type { Finding, Proven } from './finding.ts'

export const AREAS = ['routing', 'queries', 'templates', 'cache', 'comments', 'content'] as const
export type Area = (typeof AREAS)[number]

export interface RuleOutcome {
  findings: Omit<Finding, 'rule'>[]
  /** What holds, when nothing was found; null when there was nothing to look at. */
  proven: Omit<Proven, 'rule'> | null
}

export interface Rule {
  id: string
  area: Area
  /** What it finds, in one sentence. */
  meaning: string
  /** Why it matters. */
  why: string
  run(facts: Facts): Promise<RuleOutcome>
}

/** Typical witness: an address, what it answers and what it should. */
export const witness = (
  address: string | null,
  text: string,
  got: string | null = null,
  expected: string | null = null,
) => ({ address, text, got, expected })

/** Where a route stands in routes.yaml. */
export const placeOfRoute = ({ definition }: Facts, name: string) => ({
  document: 'routes.yaml',
  line: definition.routePlaces.get(name)?.line ?? null,
})

export const routeOf = ({ definition }: Facts, name: string) =>
  definition.routes.find((one) => one.route.name === name)

/** A mend that changes routes.yaml, where the change can be made. */
export function mendRoutes(
  facts: Facts,
  label: string,
  after: string,
  change: (text: string) => string | undefined,
) {
  const text = change(facts.documents.get('routes.yaml') ?? '')
  return text === undefined
    ? []
    : [{ label, after, changes: [{ document: 'routes.yaml', text }], slug: null }]
}
