/**
 * The one path from a request to a response. Readers, walks, checks and the benchmark all come through here; a walk
 * is this function's record of what it did.
 */
import type { Route } from '../../core/shapes/schemas.ts'
import { commentLimits } from '../../core/comments/comment.ts'
import { readAddress } from '../../core/routing/addresses/address.ts'
import { redirectTarget } from '../../core/routing/addresses/redirect.ts'
import { settled, withSearch, writtenOtherwise } from '../../core/routing/addresses/one-address.ts'
import { matchRoute, type MatchedParameter } from '../../core/routing/addresses/match.ts'
import { isOutage } from '../store/connection.ts'
import { addComment } from './add-comment.ts'
import type { Blog } from './blog.ts'
import { findFormer } from '../store/slugs.ts'
import { JSON_HEADERS, jsonPage, prefersJson, problemJson } from './json-page.ts'
import { PageRendering } from './page.ts'
import type { Ending, FormState, MissedSlug, PageRequest, RouteInForce } from './page-data.ts'
import { pageResponse, plain, redirect, type BlogResponse } from './responses.ts'
import { QueryFailure } from '../store/statements/run-query.ts'
import { NOT_FOUND, type Site } from '../publish/site.ts'
import type { Walk } from './walk/walk.ts'
import { explainFailure, failure, noteRoute } from './walk/walk-notes.ts'

export interface BlogRequest {
  id: string
  method: string
  /** Path and query as sent. */
  target: string
  as: 'reader' | 'author'
  /** A 404 needs no page: who asks wants to know only whether there is something. */
  sparing?: boolean
  header(name: string): string | undefined
  /** Reads the body of a form; only actions ask for it. */
  form(): Promise<FormReading>
}

export type FormReading =
  | { ok: true; fields: Record<string, string | undefined> }
  | { ok: false; status: 400 | 413 | 415; reason: string }

export async function answer(blog: Blog, request: BlogRequest, walk?: Walk): Promise<BlogResponse> {
  const start = performance.now()
  const site = blog.site
  let response: BlogResponse
  try {
    response = await respond(blog, site, request, walk)
  } catch (error) {
    response = failed(blog, request, error, walk)
  }
  if (response.status >= 400) response = forWhomItIs(response, request)
  if (walk) {
    const { status, headers, body } = response
    walk.record.response = { ...walk.record.response, status, headers, body, bytes: Buffer.byteLength(body) }
    walk.record.fragments = response.fragments.map((one) => ({ ...one }))
    walk.record.milliseconds = performance.now() - start
  }
  return request.method === 'HEAD' ? { ...response, body: '' } : response
}

/** What went wrong is told to people as a page, to programs as JSON. */
function forWhomItIs(response: BlogResponse, request: BlogRequest): BlogResponse {
  if (!prefersJson(request.header('accept')))
    return { ...response, headers: { ...response.headers, vary: 'accept' } }
  return {
    ...response,
    // What the answer says of itself, e.g. that nobody may keep it, goes for programs as well.
    headers: { ...JSON_HEADERS, ...response.headers, 'content-type': 'application/problem+json' },
    body: problemJson(response.status, request.id),
  }
}

async function respond(
  blog: Blog,
  site: Site,
  request: BlogRequest,
  walk: Walk | undefined,
): Promise<BlogResponse> {
  const { table, policy } = site.definition
  const address = readAddress(request.target, policy)
  if (!address.ok) {
    if (walk) walk.record.route.note = address.reason
    if (address.status === 308) return redirect(308, settled(table, policy, request.method, address.to), null)
    if (walk)
      walk.record.failure = failure(
        'address',
        address.reason,
        address.status === 400 ? 'write “%” itself as %25' : 'ask for a shorter address',
      )
    return plain(
      address.status,
      address.status === 414 ? 'Address too long' : 'Address not understood',
      'The address cannot be read.',
    )
  }
  const { path, query } = address
  let from = 0
  const missed: Missed[] = []
  for (;;) {
    const started = performance.now()
    const match = matchRoute(table, request.method, path, from)
    if (walk) noteRoute(walk, site, request.method, path, match, performance.now() - started)
    if (match.outcome === 'method-not-allowed') {
      const headers = { allow: match.allow.join(', ') }
      if (request.method === 'OPTIONS') return { status: 204, headers, body: '', route: null, fragments: [] }
      return plain(405, 'Method not allowed', `This address answers ${match.allow.join(', ')}.`, headers)
    }
    const page: PageRequest = {
      blog,
      site,
      id: request.id,
      path,
      query,
      as: request.as,
      walk,
      sparing: request.sparing === true || prefersJson(request.header('accept')),
    }
    if (match.outcome === 'not-found') return (await former(page, missed)) ?? (await notFound(page))
    const { route, parameters } = match
    if (walk)
      walk.record.parameters = parameters.map((one) => ({ ...one, from: 'path' as const, note: null }))
    if (route.route.redirect) {
      const { to, status = 301 } = route.route.redirect
      return redirect(status, redirectTarget(to, parameters, query, policy), route.route.name)
    }
    const other = from === 0 && writtenOtherwise(table, policy, match)
    if (other) {
      if (walk) walk.record.route.note = other.reason
      return redirect(308, withSearch(other.path, query), route.route.name)
    }
    if (route.route.action === 'add-comment') return await act(page, match.index, parameters, request)
    const inForce = { route: route.route, parameters }
    const isJson = route.route.json === true && prefersJson(request.header('accept'))
    const result = isJson ? await jsonPage(page, inForce) : await renderedPage(page, inForce)
    if (result.outcome === 'answered') return result.response
    if (result.outcome === 'elsewhere') return redirect(308, result.to, route.route.name)
    if (result.missed) missed.push({ ...result.missed, route: route.route.name, parameters })
    if (result.outcome === 'not-found')
      return (await former(page, missed)) ?? (await notFound(page, route.route.name))
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
 * One redirect to the address that a former slug's owner has now. Looked for only when nothing living was found, so a
 * slug that was given to something new leads there.
 */
async function former(
  page: PageRequest,
  missed: readonly Missed[],
  status: 301 | 308 = 301,
): Promise<BlogResponse | undefined> {
  const { blog, site, as, query, walk } = page
  for (const { kind, slug, parameter, route, parameters } of missed) {
    const found = await findFormer(blog.pool, kind, slug, as)
    if (!found) continue
    const values = Object.fromEntries(parameters.map(({ name, value }) => [name, value]))
    const built = blog.addressOf(site, route, { ...values, [parameter]: found.current })
    if (!built.ok) continue
    if (walk)
      walk.record.route.note = `“${slug}” is a former ${kind === 'page' ? 'path' : 'slug'} of “${found.title}”`
    const location = withSearch(built.path, query)
    return {
      ...redirect(status, location, route),
      // Something new may take the slug at any time.
      headers: { location, 'cache-control': 'no-cache' },
    }
  }
  return undefined
}

/** The page for addresses that lead nowhere: the definition's own, or a plain one. */
async function notFound(page: PageRequest, route: string | null = null): Promise<BlogResponse> {
  const rule = page.site.definition.settings['not-found']
  const nothingHere = plain(404, 'Not found', 'There is nothing at this address.')
  if (!rule || page.sparing) return { ...nothingHere, route }
  const rendering = new PageRendering(page, {
    route: { name: NOT_FOUND, path: page.path, data: rule.data ?? {} },
    parameters: [],
  })
  const result = await rendering.run(rule.template)
  return result.outcome === 'page'
    ? pageResponse(404, result.html, rendering.fragments, route)
    : { ...nothingHere, route }
}

async function act(
  page: PageRequest,
  index: number,
  parameters: MatchedParameter[],
  request: BlogRequest,
): Promise<BlogResponse> {
  const { blog, site } = page
  const route = site.definition.routes[index]?.route
  const then = site.definition.routes.find((one) => one.route.name === route?.then)
  if (!route || !then) throw new Error('the action has no page to show its result')
  if (!sentFromHere(request, blog.publicOrigin)) {
    return { ...plain(403, 'Not accepted', 'This form was sent from another site.'), route: route.name }
  }
  const owner = new PageRendering(page, { route, parameters })
  const found = await owner.value('post')
  if (found.outcome !== 'value') {
    const missed =
      found.outcome !== 'elsewhere' && found.missed
        ? [{ ...found.missed, route: route.name, parameters }]
        : []
    return (await former(page, missed, 308)) ?? (await notFound(page, route.name))
  }
  const form = await request.form()
  if (!form.ok)
    return {
      ...plain(form.status, form.status === 413 ? 'Too long' : 'Not understood', form.reason),
      route: route.name,
    }
  const post = found.value as { id: number; commentsOpen: boolean }
  const result = await addComment(blog, post, form.fields, commentLimits(site.definition.settings))
  if (result.outcome === 'closed')
    return { ...plain(403, 'Comments are closed', 'Comments on this post are closed.'), route: route.name }
  const values = {
    ...(found.value as object),
    ...Object.fromEntries(parameters.map(({ name, value }) => [name, value])),
  }
  const built = blog.addressOf(site, then.route.name, values)
  if (!built.ok) throw new Error(built.message)
  if (result.outcome === 'added')
    return { ...redirect(303, `${built.path}#comment-${result.id}`, route.name) }
  const shown = readAddress(built.path, site.definition.policy)
  if (!shown.ok) throw new Error(shown.reason)
  return await formAgain({ ...page, path: shown.path, query: '' }, result.form, route.name)
}

/** The page with the form once more, with what was typed and what is wrong with it. */
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

/** RFC 6454 origin of the page that sent the form; browsers always send it with POST. */
function sentFromHere(request: BlogRequest, publicOrigin: string | undefined): boolean {
  const origin = request.header('origin')
  if (origin === undefined) return request.header('sec-fetch-site') === 'same-origin'
  const host = request.header('host')
  return (
    (host !== undefined && (origin === `http://${host}` || origin === `https://${host}`)) ||
    origin === publicOrigin
  )
}

/** Readers learn that it failed and under which number; the walk learns where and what to try. */
function failed(blog: Blog, request: BlogRequest, error: unknown, walk: Walk | undefined): BlogResponse {
  if (walk) walk.record.failure = explainFailure(error)
  const outage = isOutage(error instanceof QueryFailure ? error.cause : error)
  blog.log.error(
    {
      id: request.id,
      target: request.target.slice(0, 200),
      error: error instanceof Error ? error.message : String(error),
    },
    outage ? 'database does not answer' : 'request failed',
  )
  return outage
    ? plain(
        503,
        'Back in a moment',
        'The blog cannot reach its database just now. Please try again shortly.',
        { 'retry-after': '5', 'cache-control': 'no-store' },
      )
    : plain(
        500,
        'Something went wrong',
        `The page could not be made. If it happens again, please mention the number ${request.id}.`,
        { 'cache-control': 'no-store' },
      )
}
