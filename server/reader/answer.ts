/**
 * The one path from a request to a response. Readers, previews, walks, checks and the benchmark all come through here. A
 * walk is the record that its tracer makes.
 */
import { readAddress, withPolicySlash } from '../../core/routing/addresses/address.ts'
import { canonicalForm, canonicalTarget, withSearch } from '../../core/routing/addresses/canonical-form.ts'
import { matchRoute } from '../../core/routing/addresses/match.ts'
import { redirectNeedsData, redirectTarget } from '../../core/routing/addresses/redirect.ts'
import type { Route } from '../../core/shapes/schemas.ts'
import type { LogPort, SitePort } from '../publish/ports.ts'
import type { Site } from '../publish/site.ts'
import { isOutage } from '../store/connection.ts'
import { QueryFailure } from '../store/statements/run-query.ts'
import { withQuery } from '../../core/paging/numbered.ts'
import { isForMachines, machinePage } from './machine-pages.ts'
import { act } from './comments/act.ts'
import { dataRedirect } from './data-redirect.ts'
import { COMMENT_PARAMETER, pageOfComment } from './comments/permalinks.ts'
import type { CommentPorts } from './comments/submit.ts'
import { former, notFound, type Missed } from './not-found.ts'
import { JSON_HEADERS, jsonPage, problemJson } from './json-page.ts'
import { PageRendering, Unfillable } from './page.ts'
import type { Ending, PagePorts, PageRequest, RouteInForce } from './page-request.ts'
import { validator } from './http/send.ts'
import { MissingCopy } from './pages/missing-copies.ts'
import { countsOf, isCounted } from './pages/copy-counts.ts'
import { describeCopy, pageCopyFor, type PageCopy, type Reason } from './pages/page-copies.ts'
import { usedSearch, useOf } from './pages/page-use.ts'
import type { BlogRequest } from './request.ts'
import { errorPage, failedPage, UNAVAILABLE, type ErrorPorts } from './error-pages.ts'
import { cacheStatus, pageResponse, redirect, serverTiming, type BlogResponse } from './responses.ts'
import { noteRunaway, runawayAt } from './runaways.ts'
import { NO_TRACER, type Tracer } from './tracer.ts'

/** What answering a request uses. */
export type AnswerPorts = PagePorts & SitePort & LogPort & CommentPorts

/** Answers a request. The answer to HEAD has the body of GET, whose length and encoding its headers tell. */
export async function answer(
  ports: AnswerPorts,
  request: BlogRequest,
  tracer: Tracer = NO_TRACER,
): Promise<BlogResponse> {
  const start = performance.now()
  let response: BlogResponse
  const catchingUp = ports.untilCurrent()
  if (catchingUp) await catchingUp
  const { site, fragments } = ports
  try {
    const runaway = runawayAt(fragments, site, request.target)
    if (runaway) throw runaway
    response = ports.isBehind ? behind(ports, request) : await respond(ports, site, request, tracer)
  } catch (error) {
    noteRunaway(fragments, site, request.target, error)
    tracer.failed(error)
    response = failed(ports, site, request, error)
  }
  if (response.status >= 400) response = negotiateError(response, request)
  const { headers, ...encoded } = validator(response, request.method)
  const took = performance.now() - start
  // The headers of a copy are complete, and shared by its answers.
  if (response.headers['server-timing'] === undefined)
    response = {
      ...response,
      ...encoded,
      headers: { ...response.headers, ...headers, 'server-timing': serverTiming(response, took) },
    }
  const isHead = request.method === 'HEAD'
  tracer.responded(isHead ? { ...response, body: '' } : response, took)
  return response
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
  const missing = MissingCopy.of(page)
  const known = missing?.take()
  if (known) return known
  const nothing = async (route: string | null = null): Promise<BlogResponse> => {
    if (tracer.isRecording) tracer.pageCopy(MissingCopy.describe(page))
    if (missing?.rendering) await missing.rendering
    // From here on there is no `await` until the rendering is registered.
    const made = missing?.take()
    if (made) return made
    const finish = missing?.begin()
    try {
      const moved = await former(page, missed)
      return moved ? ((await missing?.keepAnswer(moved)) ?? moved) : await notFound(page, route, missing)
    } finally {
      finish?.()
    }
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
    if (match.outcome === 'not-found') return await nothing()
    const { route, parameters } = match
    const { name } = route.route
    tracer.pathParameters(parameters)
    if (route.route.redirect && !redirectNeedsData(route.route)) {
      const { to, status = 301 } = route.route.redirect
      return redirect(status, redirectTarget(to, parameters, query, policy), name)
    }
    const canonical = from === 0 && canonicalForm(table, policy, match)
    if (canonical) {
      tracer.routeNoted(canonical.reason)
      return redirect(308, withSearch(canonical.path, query), name)
    }
    if (route.route.action === 'add-comment')
      return await act(ports, page, { index: match.index, parameters })
    const inForce = { ...route, parameters }
    const elsewhere = await commentPage(page, inForce)
    if (elsewhere !== undefined) return redirect(302, elsewhere, name)
    const isJson = route.route.json === true && request.accepts === 'json'
    const shown = pageOf(page, route.route)
    // What a route before has not found is not part of the copy.
    const isFirst = from === 0
    const result = route.route.redirect
      ? await dataRedirect(page, inForce)
      : isForMachines(route.route)
        ? await machinePage(shown, inForce)
        : isJson
          ? await data(shown, inForce, isFirst)
          : await renderedPage(shown, inForce, isFirst)
    if (result.outcome === 'answered') return result.response
    if (result.outcome === 'elsewhere')
      return redirect(308, withOthers(result.to, page.search, shown.search), name)
    if (result.missed) missed.push({ ...result.missed, route: name, parameters })
    if (result.outcome === 'not-found') return await nothing(name)
    from = match.index + 1
  }
}

/** Returns the address of the page that shows the comment of a permanent address. */
async function commentPage(page: PageRequest, inForce: RouteInForce): Promise<string | undefined> {
  const text = page.search.get(COMMENT_PARAMETER) ?? ''
  if (!/^[1-9][0-9]{0,8}$/.test(text)) return undefined
  const found = await pageOfComment(page, inForce, Number(text))
  return found === null
    ? undefined
    : withQuery(page.shownPath, page.search, { ...found, [COMMENT_PARAMETER]: null })
}

/** Returns the request as a route's pages see it: without parameters that they do not use. */
function pageOf(page: PageRequest, route: Route): PageRequest {
  if (page.query === '') return page
  const search = usedSearch(useOf(page.site, route), page.search)
  return { ...page, search, query: search.toString() }
}

/** Adds the parameters of a request that its page does not use: whoever counts them reads them from the address. */
function withOthers(to: string, sent: URLSearchParams, used: URLSearchParams): string {
  const others = [...sent].filter(([name]) => !used.has(name))
  if (others.length === 0) return to
  return `${to}${to.includes('?') ? '&' : '?'}${new URLSearchParams(others).toString()}`
}

type Answered = { outcome: 'answered'; response: BlogResponse } | Ending

/** Renders a page, or reads its data, and makes a copy of it if one is given. */
type Make = (copy?: PageCopy) => Promise<Answered>

async function renderedPage(
  page: PageRequest,
  inForce: RouteInForce & { route: Route },
  isKept: boolean,
): Promise<Answered> {
  const copy = isKept ? pageCopyFor(page, inForce) : undefined
  if (page.tracer.isRecording && copy && page.request.as === 'reader')
    page.tracer.pageCopy(describeCopy(copy))
  return await keptOrMade(page, copy, (made) => renderedNow(page, inForce, made))
}

/** Answers with the data of a page. */
const data = (
  page: PageRequest,
  inForce: RouteInForce & { route: Route },
  isKept: boolean,
): Promise<Answered> =>
  keptOrMade(page, isKept ? pageCopyFor(page, inForce, 'json') : undefined, (made) =>
    jsonPage(page, inForce, made),
  )

/** Answers with a copy, or makes one. */
async function keptOrMade(
  page: PageRequest,
  copy: PageCopy | Reason | undefined,
  make: Make,
): Promise<Answered> {
  if (!copy || typeof copy === 'string' || page.tracer.isRecording) return await make()
  const suits = copy.suits()
  if (suits !== true && !(await suits)) return await make()
  // Without a wait, so that requests at the same time find the first one.
  if (!page.ports.trustsCopies && !copy.isRefreshedByAge) return await madeOrStale(copy, make)
  const kept = copy.take()
  if (kept) return { outcome: 'answered', response: kept }
  const stale = copy.takeStale('revalidating')
  if (stale) {
    if (!copy.rendering) renewInBackground(page, copy, make)
    return { outcome: 'answered', response: stale }
  }
  if (copy.rendering) {
    const made = await copy.rendering.then(() => copy.take())
    if (made) return { outcome: 'answered', response: made }
  }
  try {
    return await madeOnce(copy, make)
  } catch (error) {
    const old = copy.takeStale('error')
    if (!old) throw error
    logFailure(page.ports, page.request, error, 'an old copy answers, because the page failed')
    return { outcome: 'answered', response: old }
  }
}

/** Makes an answer for all readers, and a copy of it. Requests at the same time wait for it. */
async function madeOnce(copy: PageCopy, make: Make): Promise<Answered> {
  const finish = copy.begin()
  try {
    const shared = await copy.takeShared()
    return shared ? { outcome: 'answered', response: shared } : await make(copy)
  } catch (error) {
    if (!(error instanceof Unfillable)) throw error
    return await make()
  } finally {
    finish()
  }
}

function renewInBackground(page: PageRequest, copy: PageCopy, make: Make): void {
  madeOnce(copy, make).catch((error: unknown) =>
    logFailure(page.ports, page.request, error, 'a copy could not be renewed'),
  )
}

const logFailure = ({ log }: LogPort, { id, target }: BlogRequest, error: unknown, what: string): void =>
  log.error(
    { id, target: target.slice(0, 200), error: error instanceof Error ? error.message : String(error) },
    what,
  )

/** Makes an answer while the database is away. If that fails, a copy answers, which says so. */
async function madeOrStale(copy: PageCopy, make: Make): Promise<Answered> {
  try {
    return await make()
  } catch (error) {
    const kept = copy.isDatabaseAway && isOutage(causeOf(error)) ? copy.take('database away') : undefined
    if (!kept) throw error
    return { outcome: 'answered', response: kept }
  }
}

const causeOf = (error: unknown): unknown => (error instanceof QueryFailure ? error.cause : error)

async function renderedNow(
  page: PageRequest,
  inForce: RouteInForce & { route: Route },
  copy?: PageCopy,
): Promise<Answered> {
  const { name, template = '', json } = inForce.route
  const rendering = new PageRendering(page, inForce, copy)
  const result = await rendering.run(template)
  if (result.outcome !== 'page') return result
  if (isCounted(page)) countRendering(page, name, rendering, result.answer !== undefined)
  if (result.answer) {
    const { headers, ...rest } = result.answer
    const { fragments } = rendering
    const status = cacheStatus(fragments, rendering.isStored ? 'fwd=miss; stored' : 'fwd=miss')
    const elsewhere = rendering.isStored ? copy?.storedFields : undefined
    return {
      outcome: 'answered',
      response: {
        ...rest,
        fragments,
        took: rendering.took,
        headers: { ...headers, ...status, ...elsewhere },
      },
    }
  }
  const response: BlogResponse = {
    ...pageResponse(page.site.definition, 200, result.html, rendering, name),
    copy: 'bypass',
  }
  Object.assign(response.headers, cacheStatus(rendering.fragments, 'fwd=bypass'))
  if (json === true) response.headers['vary'] = 'accept'
  return { outcome: 'answered', response }
}

/** Counts what was rendered, and the fragments that were not. */
function countRendering(
  { ports }: PageRequest,
  route: string,
  { took, fragments }: PageRendering,
  isKept: boolean,
): void {
  const counts = countsOf(ports.fragments)
  const now = ports.clock().getTime()
  counts.note(`page ${route}`, isKept ? 'miss' : 'bypass', now, took.queries + took.templates)
  for (const one of fragments) counts.note(one.name, one.outcome, now, one.renderMilliseconds)
}

/** What this process has, copies and definition, may be from before a write that was acknowledged. */
function behind({ site, log }: AnswerPorts, { id, target }: BlogRequest): BlogResponse {
  log.error({ id, target: target.slice(0, 200) }, 'the change log could not be read in time')
  return unavailable({ site, log }, id)
}

const unavailable = (ports: ErrorPorts, number: string): BlogResponse =>
  errorPage(ports, {
    ...UNAVAILABLE,
    headers: { ...UNAVAILABLE.headers, 'cache-control': 'no-store' },
    number,
  })

/** Readers get the request's id. The walk has the reason. */
function failed({ log }: LogPort, site: Site, request: BlogRequest, error: unknown): BlogResponse {
  const { id } = request
  const outage = isOutage(causeOf(error))
  logFailure({ log }, request, error, outage ? 'database unavailable' : 'request failed')
  return outage ? unavailable({ site, log }, id) : failedPage({ site, log }, id)
}
