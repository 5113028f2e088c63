/**
 * The one path from a request to a response. Readers, previews, walks, checks and the benchmark all come through here. A
 * walk is the record that its tracer makes.
 */
import { readAddress, withPolicySlash } from '../../core/routing/addresses/address.ts'
import { canonicalForm, canonicalTarget, withSearch } from '../../core/routing/addresses/canonical-form.ts'
import { matchRoute, type MatchedParameter } from '../../core/routing/addresses/match.ts'
import { redirectTarget } from '../../core/routing/addresses/redirect.ts'
import type { Route } from '../../core/shapes/schemas.ts'
import type { LogPort, SitePort, StorePort } from '../publish/ports.ts'
import { NOT_FOUND, type Site } from '../publish/site.ts'
import { isOutage } from '../store/connection.ts'
import { findFormer } from '../store/content/slugs.ts'
import { QueryFailure } from '../store/statements/run-query.ts'
import { addComment } from './add-comment.ts'
import { buildAddress } from './addresses/build-address.ts'
import { JSON_HEADERS, jsonPage, problemJson } from './json-page.ts'
import { PageRendering } from './page.ts'
import type { Ending, FormState, MissedSlug, PagePorts, PageRequest, RouteInForce } from './page-data.ts'
import { FORM_LIMIT, type BlogRequest, type RequestOrigin } from './request.ts'
import { errorPage, failedPage, UNAVAILABLE } from './error-pages.ts'
import { pageResponse, redirect, type BlogResponse } from './responses.ts'
import { noteRunaway, runawayAt } from './runaways.ts'
import { NO_TRACER, type Tracer } from './tracer.ts'

/** What answering a request uses. */
export type AnswerPorts = PagePorts & SitePort & StorePort & LogPort

export async function answer(
  ports: AnswerPorts,
  request: BlogRequest,
  tracer: Tracer = NO_TRACER,
): Promise<BlogResponse> {
  const start = performance.now()
  let response: BlogResponse
  const { site, fragments } = ports
  try {
    const runaway = runawayAt(fragments, site, request.target)
    if (runaway) throw runaway
    response = await respond(ports, site, request, tracer)
  } catch (error) {
    noteRunaway(fragments, site, request.target, error)
    tracer.failed(error)
    response = failed(ports, site, request, error)
  }
  if (response.status >= 400) response = negotiateError(response, request)
  tracer.responded(response, performance.now() - start)
  return request.method === 'HEAD' ? { ...response, body: '' } : response
}

/** Returns an error as a page or as problem details, whichever the client prefers. */
function negotiateError(response: BlogResponse, request: BlogRequest): BlogResponse {
  if (request.accepts === 'html') return { ...response, headers: { ...response.headers, vary: 'accept' } }
  return {
    ...response,
    // The response's own headers, such as `no-store`, also apply to programs.
    headers: { ...JSON_HEADERS, ...response.headers, 'content-type': 'application/problem+json' },
    body: problemJson(response.status, request.id),
  }
}

async function respond(
  ports: AnswerPorts,
  site: Site,
  request: BlogRequest,
  tracer: Tracer,
): Promise<BlogResponse> {
  const { table, policy } = site.definition
  const { method } = request
  const address = readAddress(request.target, policy)
  if (!address.ok) {
    tracer.addressRead(address.reason)
    if (address.status === 308) return redirect(308, canonicalTarget(table, policy, method, address.to), null)
    const isTooLong = address.status === 414
    tracer.addressFailed(address.reason, isTooLong ? 'Use a shorter address.' : 'Encode “%” itself as %25.')
    return errorPage(
      { site, log: ports.log },
      isTooLong
        ? { status: 414, title: 'address-too-long-title', text: 'address-too-long-text' }
        : { status: address.status, title: 'address-invalid-title', text: 'address-invalid-text' },
    )
  }
  const { path, query } = address
  const page: PageRequest = {
    ports,
    site,
    request: request.accepts === 'json' ? { ...request, sparing: true } : request,
    path,
    shownPath: withPolicySlash(path, policy),
    query,
    search: new URLSearchParams(query),
    tracer,
  }
  let from = 0
  const missed: Missed[] = []
  for (;;) {
    const started = performance.now()
    const match = matchRoute(table, method, path, from)
    tracer.routed(site, method, path, match, performance.now() - started)
    if (match.outcome === 'method-not-allowed') {
      const headers = { allow: match.allow.join(', ') }
      if (method === 'OPTIONS') return { status: 204, headers, body: '', route: null, fragments: [] }
      return errorPage(
        { site, log: ports.log },
        {
          status: 405,
          title: 'method-not-allowed-title',
          text: 'method-not-allowed-text',
          values: { methods: match.allow.join(', ') },
          headers,
        },
      )
    }
    if (match.outcome === 'not-found') return (await former(page, missed)) ?? (await notFound(page))
    const { route, parameters } = match
    const { name } = route.route
    tracer.pathParameters(parameters)
    if (route.route.redirect) {
      const { to, status = 301 } = route.route.redirect
      return redirect(status, redirectTarget(to, parameters, query, policy), name)
    }
    const canonical = from === 0 && canonicalForm(table, policy, match)
    if (canonical) {
      tracer.routeNoted(canonical.reason)
      return redirect(308, withSearch(canonical.path, query), name)
    }
    if (route.route.action === 'add-comment') return await act(ports, page, match.index, parameters)
    const inForce = { route: route.route, parameters }
    const isJson = route.route.json === true && request.accepts === 'json'
    const result = isJson ? await jsonPage(page, inForce) : await renderedPage(page, inForce)
    if (result.outcome === 'answered') return result.response
    if (result.outcome === 'elsewhere') return redirect(308, result.to, name)
    if (result.missed) missed.push({ ...result.missed, route: name, parameters })
    if (result.outcome === 'not-found') return (await former(page, missed)) ?? (await notFound(page, name))
    from = match.index + 1
  }
}

async function renderedPage(
  page: PageRequest,
  inForce: RouteInForce & { route: Route },
): Promise<{ outcome: 'answered'; response: BlogResponse } | Ending> {
  const { name, template = '', json } = inForce.route
  const rendering = new PageRendering(page, inForce)
  const result = await rendering.run(template)
  if (result.outcome !== 'page') return result
  const response = pageResponse(200, result.html, rendering.fragments, name)
  if (json === true) response.headers['vary'] = 'accept'
  return { outcome: 'answered', response }
}

interface Missed extends MissedSlug {
  route: string
  parameters: readonly MatchedParameter[]
}

/**
 * Redirects to the current address of the row that had a slug before. It is looked up only if no row has the slug now, so
 * that a slug leads to the row that has it.
 */
async function former(
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
async function notFound(page: PageRequest, route: string | null = null): Promise<BlogResponse> {
  const rule = page.site.definition.settings['not-found']
  const withoutData = () => ({
    ...errorPage(
      { site: page.site, log: page.ports.log },
      { status: 404, title: 'not-found-title', text: 'not-found-text' },
    ),
    route,
  })
  if (!rule || page.request.sparing) return withoutData()
  const rendering = new PageRendering(page, {
    route: { name: NOT_FOUND, path: page.path, data: rule.data ?? {} },
    parameters: [],
  })
  const result = await rendering.run(rule.template)
  return result.outcome === 'page'
    ? pageResponse(404, result.html, rendering.fragments, route)
    : withoutData()
}

async function act(
  ports: StorePort,
  page: PageRequest,
  index: number,
  parameters: MatchedParameter[],
): Promise<BlogResponse> {
  const { site, request } = page
  const { routes, settings, policy } = site.definition
  const route = routes[index]?.route
  const then = routes.find((one) => one.route.name === route?.then)
  if (!route || !then) throw new Error('The action has no route to show its result.')
  const at = { site, log: page.ports.log }
  const refused = (why: 'form-refused' | 'comments-closed') => ({
    ...errorPage(at, { status: 403, title: `${why}-title`, text: `${why}-text` }),
    route: route.name,
  })
  if (!isSameOrigin(request.origin, settings.origin)) return refused('form-refused')
  const found = await new PageRendering(page, { route, parameters }).value('post')
  if (found.outcome !== 'value') {
    const missed =
      found.outcome !== 'elsewhere' && found.missed
        ? [{ ...found.missed, route: route.name, parameters }]
        : []
    return (await former(page, missed, 308)) ?? (await notFound(page, route.name))
  }
  const form = await request.form()
  if (!form.ok) {
    const title = form.status === 413 ? 'form-too-large-title' : 'form-unreadable-title'
    const values = { limit: `${FORM_LIMIT / 1024} kB` }
    return {
      ...errorPage(at, { status: form.status, title, text: form.reason, values }),
      route: route.name,
    }
  }
  const post = found.value as { id: number; commentsOpen: boolean }
  const result = await addComment(ports, post, form.fields, site.definition)
  if (result.outcome === 'closed') return refused('comments-closed')
  const values = {
    ...(found.value as object),
    ...Object.fromEntries(parameters.map(({ name, value }) => [name, value])),
  }
  const built = buildAddress(site, then.route.name, values)
  if (!built.ok) throw new Error(built.problem.message)
  if (result.outcome === 'added') return redirect(303, `${built.path}#comment-${result.id}`, route.name)
  const shown = readAddress(built.path, policy)
  if (!shown.ok) throw new Error(shown.reason)
  const again = { ...page, path: shown.path, shownPath: built.path, query: '', search: new URLSearchParams() }
  return await formAgain(again, result.form, route.name)
}

/** Shows the page with the form again, with what was typed and what is wrong with it. */
async function formAgain(page: PageRequest, form: FormState, routeName: string): Promise<BlogResponse> {
  const match = matchRoute(page.site.definition.table, 'GET', page.path)
  if (match.outcome !== 'matched') return await notFound(page, routeName)
  const rendering = new PageRendering(
    { ...page, form },
    { route: match.route.route, parameters: match.parameters },
  )
  const result = await rendering.run(match.route.route.template ?? '')
  return result.outcome === 'page'
    ? pageResponse(422, result.html, rendering.fragments, routeName)
    : await notFound(page, routeName)
}

/** Returns true if a form was sent from the blog itself: from the requested host, or from its public origin. */
function isSameOrigin({ origin, host, fetchSite }: RequestOrigin, publicOrigin: string | undefined): boolean {
  if (origin === undefined) return fetchSite === 'same-origin'
  return (
    (host !== undefined && (origin === `http://${host}` || origin === `https://${host}`)) ||
    origin === publicOrigin
  )
}

/** Readers get the request's id. The walk has the reason. */
function failed({ log }: LogPort, site: Site, { id, target }: BlogRequest, error: unknown): BlogResponse {
  const outage = isOutage(error instanceof QueryFailure ? error.cause : error)
  log.error(
    {
      id,
      target: target.slice(0, 200),
      error: error instanceof Error ? error.message : String(error),
    },
    outage ? 'database unavailable' : 'request failed',
  )
  const headers = { ...UNAVAILABLE.headers, 'cache-control': 'no-store' }
  return outage
    ? errorPage({ site, log }, { ...UNAVAILABLE, headers, number: id })
    : failedPage({ site, log }, id)
}
