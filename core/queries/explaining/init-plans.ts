/**
 * PostgreSQL lists a subquery that runs once (“InitPlan 2 (returns $1)”) under the query that contains it, but runs it when
 * a step first needs its value, so that step's time includes the subquery's (manual, “Using EXPLAIN”; source,
 * src/backend/executor/nodeSubplan.c). Here it is moved under that step, so that times add up and its use is visible.
 */

export type Json = Readonly<Record<string, unknown>>

/** Returns the steps below a step. */
export const below = (node: Json): Json[] => (Array.isArray(node['Plans']) ? (node['Plans'] as Json[]) : [])

const withBelow = (node: Json, plans: readonly Json[]): Json => ({ ...node, Plans: plans })

export function placeInitPlans(node: Json): Json {
  const plans = below(node).map(placeInitPlans)
  let placed = withBelow(
    node,
    plans.filter((one) => valueOf(one) === undefined),
  )
  // In reverse order: a subquery may read the value of an earlier one.
  for (const once of plans.filter((one) => valueOf(one) !== undefined).toReversed())
    placed = underUser(placed, once) ?? withBelow(placed, [...below(placed), once])
  return placed
}

/** Returns the name of a subquery's value, e.g. `$1`; undefined for other steps. */
function valueOf(node: Json): string | undefined {
  if (node['Parent Relationship'] !== 'InitPlan') return undefined
  return /\(returns (\$\d+)/.exec(String(node['Subplan Name']))?.[1]
}

/** Milliseconds over all runs. PostgreSQL rounds the times of loops. */
const timeOf = (node: Json) => Number(node['Actual Total Time'] ?? 0) * Number(node['Actual Loops'] ?? 0)
const OFF = { share: 0.95, milliseconds: 0.02 }

/** True if a step took long enough on its own to have waited for a subquery. */
const canHaveWaited = (node: Json, once: Json): boolean => {
  const others = below(node).reduce((sum, one) => sum + timeOf(one), 0)
  return timeOf(node) - others >= timeOf(once) * OFF.share - OFF.milliseconds
}

/** Returns the tree with a subquery under the first step that reads its value and waited for it. */
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
