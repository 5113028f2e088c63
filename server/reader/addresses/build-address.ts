/** Builds the address of a route by its name. */
import { LRUCache } from 'lru-cache'
import { buildPath, type BuildResult } from '../../../core/routing/addresses/build.ts'
import { ADDRESS_PROBLEMS } from '../../../core/routing/problems.ts'
import type { Definition } from '../../../core/blog/definition.ts'
import type { Site } from '../../publish/site.ts'

/** The number of addresses of a definition that are remembered: a page has the same links as others. */
const REMEMBERED = 5_000
/** The length of what identifies a remembered address, in characters. */
const LONGEST = 500
const remembered = new WeakMap<Definition, LRUCache<string, BuildResult>>()

export function buildAddress(
  { definition }: Site,
  route: string,
  parameters: Readonly<Record<string, unknown>>,
): BuildResult {
  let known = remembered.get(definition)
  if (!known) remembered.set(definition, (known = new LRUCache({ max: REMEMBERED })))
  let key = route
  for (const name of Object.keys(parameters)) key += `\0${name}\0${String(parameters[name] ?? '')}`
  const found = known.get(key)
  if (found) return found
  const built = addressOf(definition, route, parameters)
  if (key.length <= LONGEST) known.set(key, built)
  return built
}

function addressOf(
  { routes, policy }: Definition,
  route: string,
  parameters: Readonly<Record<string, unknown>>,
): BuildResult {
  const compiled = routes.find((one) => one.route.name === route)
  return compiled
    ? buildPath(compiled, parameters, policy)
    : { ok: false, problem: ADDRESS_PROBLEMS['address-route-unknown'](route) }
}
