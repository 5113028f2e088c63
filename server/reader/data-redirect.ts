/** Redirects whose target depends on a row, such as that of a short address with a number. */
import { argumentValue } from '../../core/queries/arguments.ts'
import { redirectReferences, redirectTarget } from '../../core/routing/addresses/redirect.ts'
import type { Route } from '../../core/shapes/schemas.ts'
import type { Ending, PageRequest, RouteInForce } from './page-request.ts'
import { PRIVATE, redirect, type BlogResponse } from './responses.ts'
import { loadWholeData } from './whole-data.ts'

/** Loads the rows of a redirect, and answers with the address. Without a row, or without a value, there is no address. */
export async function dataRedirect(
  page: PageRequest,
  inForce: RouteInForce & { route: Route },
): Promise<{ outcome: 'answered'; response: BlogResponse } | Ending> {
  const { route, parameters } = inForce
  const { to, status = 301 } = route.redirect ?? { to: '/' }
  const loaded = await loadWholeData(page, inForce)
  if (loaded.outcome !== 'loaded') return loaded
  const values = new Map(loaded.values)
  const fields = new Map<string, string>()
  for (const reference of redirectReferences(to, route.data).fields) {
    const value = argumentValue(reference, (name) => values.get(name))
    if ((typeof value !== 'string' && typeof value !== 'number') || value === '')
      return { outcome: 'not-found' }
    fields.set(reference, String(value))
  }
  const { policy } = page.site.definition
  const response = redirect(status, redirectTarget(to, parameters, page.query, policy, fields), route.name)
  // An author is also led to what readers must not see.
  if (page.request.as === 'author') Object.assign(response.headers, PRIVATE)
  return { outcome: 'answered', response }
}
