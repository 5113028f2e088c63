/** Answers for addresses without a page: the address that a row has now, or the 404 page. */
import type { MatchedParameter } from '../../core/routing/addresses/match.ts'
import { withSearch } from '../../core/routing/addresses/canonical-form.ts'
import { NOT_FOUND } from '../publish/site.ts'
import { findFormer } from '../store/content/slugs.ts'
import { buildAddress } from './addresses/build-address.ts'
import { errorPage } from './error-pages.ts'
import type { MissedSlug, PageRequest } from './page-request.ts'
import { PageRendering } from './page.ts'
import type { MissingCopy } from './pages/missing-copies.ts'
import { cacheStatus, pageResponse, redirect, type BlogResponse } from './responses.ts'

export interface Missed extends MissedSlug {
  route: string
  parameters: readonly MatchedParameter[]
}

/**
 * Redirects to the current address of the row that had a slug before. It is looked up only if no row has the slug now, so
 * that a slug leads to the row that has it.
 */
export async function former(
  page: PageRequest,
  missed: readonly Missed[],
  status: 301 | 308 = 301,
): Promise<BlogResponse | undefined> {
  const { ports, site, request, query, tracer } = page
  for (const { kind, slug, parameter, route, parameters } of missed) {
    const found = await findFormer(ports.pool, kind, slug, request.as)
    if (!found) continue
    const values = Object.fromEntries(parameters.map(({ name, value }) => [name, value]))
    const built = buildAddress(site, route, { ...values, [parameter]: found.current })
    if (!built.ok) continue
    tracer.routeNoted(`“${slug}” is a former ${kind === 'page' ? 'path' : 'slug'} of “${found.title}”.`)
    const location = withSearch(built.path, query)
    return {
      ...redirect(status, location, route),
      // Another row may take the slug at any time.
      headers: { location, 'cache-control': 'no-cache' },
    }
  }
  return undefined
}

/** Answers 404 with the definition's own page, or with a plain one. */
export async function notFound(
  page: PageRequest,
  route: string | null = null,
  copy?: MissingCopy,
): Promise<BlogResponse> {
  const rule = page.site.definition.settings['not-found']
  const withoutData = () => ({
    ...errorPage(
      { site: page.site, log: page.ports.log },
      { status: 404, title: 'not-found-title', text: 'not-found-text' },
    ),
    route,
  })
  if (!rule || page.request.sparing) return withoutData()
  const inForce = {
    route: { name: NOT_FOUND, path: page.path, data: rule.data ?? {} },
    parameters: [],
    shared: new Set<string>(),
  }
  // A template that changes at any time cannot be kept.
  const kept = page.site.definition.templates.readsClock(rule.template) ? undefined : copy
  const rendering = new PageRendering(page, inForce, kept, kept?.since)
  const result = await rendering.run(rule.template)
  if (result.outcome !== 'page') return withoutData()
  const response = pageResponse(page.site.definition, 404, result.html, rendering, route)
  if (!result.answer) return response
  const status = cacheStatus(rendering.fragments, rendering.isStored ? 'fwd=miss; stored' : 'fwd=miss')
  return { ...response, headers: { ...response.headers, ...status }, copy: 'miss' }
}
