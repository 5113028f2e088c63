/** Builds the address of a route by its name. */
import { buildPath, type BuildResult } from '../../../core/routing/addresses/build.ts'
import { ADDRESS_PROBLEMS } from '../../../core/routing/problems.ts'
import type { Site } from '../../publish/site.ts'

export function buildAddress(
  { definition }: Site,
  route: string,
  parameters: Readonly<Record<string, unknown>>,
): BuildResult {
  const compiled = definition.routes.find((one) => one.route.name === route)
  return compiled
    ? buildPath(compiled, parameters, definition.policy)
    : { ok: false, problem: ADDRESS_PROBLEMS['address-route-unknown'](route) }
}
