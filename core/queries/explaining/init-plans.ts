/**
 * PostgreSQL lists a subquery that is run once (“InitPlan 2 (returns $1)”) under the query it stands in, but runs it when
 * a step first needs its value, whose time then holds the subquery's (its manual, “Using EXPLAIN”, and src/backend/executor
 * nodeSubplan.c). Here it comes under that step, so that times add up and a reader sees what the value is for.
 */

export type Json = Readonly<Record<string, unknown>>

/** Steps below a step. */
export const below = (node: Json): Json[] => (Array.isArray(node['Plans']) ? (node['Plans'] as Json[]) : [])

const withBelow = (node: Json, plans: readonly Json[]): Json => ({ ...node, Plans: plans })

export function placeInitPlans(node: Json): Json {
  const plans = below(node).map(placeInitPlans)
  let placed = withBelow(
    node,
    plans.filter((one) => valueOf(one) === undefined),
  )
  // The last first: a subquery can need the value of one before it.
  for (const once of plans.filter((one) => valueOf(one) !== undefined).toReversed())
    placed = underUser(placed, once) ?? withBelow(placed, [...below(placed), once])
  return placed
}

/** The value that a subquery gives, e.g. `$1`; undefined of other steps. */
function valueOf(node: Json): string | undefined {
  if (node['Parent Relationship'] !== 'InitPlan') return undefined
  return /\(returns (\$\d+)/.exec(String(node['Subplan Name']))?.[1]
}

/** Milliseconds over all runs; clocks of loops can be off by a little. */
const timeOf = (node: Json) => Number(node['Actual Total Time'] ?? 0) * Number(node['Actual Loops'] ?? 0)
const OFF = { share: 0.95, milliseconds: 0.02 }

/** True where a step took long enough by itself to have waited for a subquery: one that never ran has not. */
const canHaveWaited = (node: Json, once: Json): boolean => {
  const others = below(node).reduce((sum, one) => sum + timeOf(one), 0)
  return timeOf(node) - others >= timeOf(once) * OFF.share - OFF.milliseconds
}

/** The tree with a subquery under the first step, as they are run, that reads its value and waited for it. */
function underUser(node: Json, once: Json): Json | undefined {
  const plans = below(node)
  for (const [at, one] of plans.entries()) {
    const changed = underUser(one, once)
    if (changed) return withBelow(node, plans.with(at, changed))
  }
  return reads(node, valueOf(once) ?? '') && canHaveWaited(node, once)
    ? withBelow(node, [...plans, once])
    : undefined
}

function reads(node: Json, value: string): boolean {
  const isNamed = (text: unknown) => typeof text === 'string' && text.split(/(\$\d+)/).includes(value)
  return Object.entries(node).some(
    ([key, one]) =>
      key !== 'Subplan Name' && key !== 'Plans' && (Array.isArray(one) ? one.some(isNamed) : isNamed(one)),
  )
}
