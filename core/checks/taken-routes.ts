/** Routes that never answer are one finding. What follows from it for their addresses is none. */
import type { Facts } from './facts.ts'

/** Returns the names of the routes whose addresses are all answered by earlier routes. */
export async function takenRoutes(facts: Facts): Promise<ReadonlySet<string>> {
  const { reach } = await facts.analysis()
  return new Set(reach.filter((one) => one.outcome === 'taken').map((one) => one.name))
}
