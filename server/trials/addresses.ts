/** Chooses the requests by which a definition is tried: of each affected route, of its further pages and of its form. */
import type { CompiledRoute } from '../../core/routing/addresses/compiled-route.ts'
import { redirectNeedsData } from '../../core/routing/addresses/redirect.ts'
import { queriesOf } from '../../core/shapes/route-data.ts'
import type { DatabasePort, PoolPort } from '../publish/ports.ts'
import { NOT_FOUND, type Site } from '../publish/site.ts'
import { formAddress } from '../reader/addresses/form-address.ts'
import { addressesOf } from '../reader/addresses/real-addresses.ts'
import { refusedForm, internalRequest, type BlogRequest } from '../reader/request.ts'

/** An address that no route answers. */
const NOWHERE = '/no-such-address-as-this'

/** Returns the requests to try. @param current the definition in force: what answers as before is not tried */
export async function requestsToTry(
  blog: PoolPort & DatabasePort,
  site: Site,
  current: Site | undefined,
): Promise<BlogRequest[]> {
  const requests: BlogRequest[] = []
  for (const compiled of site.definition.routes) {
    const { route } = compiled
    if ((route.redirect && !redirectNeedsData(route)) || !isAffected(site, current, route.name)) continue
    if (route.action !== undefined) {
      const path = await formAddress(blog, site, compiled)
      if (path !== undefined) requests.push(refusedForm(path))
      continue
    }
    const path = await addressOf(blog, site, compiled)
    if (path === undefined) continue
    requests.push(internalRequest(path))
    for (const parameter of pageParameters(site, compiled))
      requests.push(internalRequest(`${path}?${parameter}=2`))
  }
  if (site.definition.settings['not-found'] && isAffected(site, current, NOT_FOUND))
    requests.push(internalRequest(NOWHERE))
  return requests
}

async function addressOf(
  blog: PoolPort & DatabasePort,
  site: Site,
  compiled: CompiledRoute,
): Promise<string | undefined> {
  const found = await addressesOf(blog, site, compiled, { size: 1 })
  return found?.addresses[0]?.path
}

const pageParameters = (site: Site, { route }: CompiledRoute): string[] => [
  ...new Set(
    queriesOf(route).flatMap((name) => {
      const take = site.queries.get(name)?.meaning.take
      return take?.kind === 'pages' ? [take.parameter] : []
    }),
  ),
]

/** Whether a route may answer in another way than with the definition in force. */
function isAffected(site: Site, current: Site | undefined, route: string): boolean {
  return current === undefined || site.answerState(route) !== current.answerState(route)
}
