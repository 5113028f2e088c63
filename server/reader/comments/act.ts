/** Answers a comment form: redirects to the comment, or shows the page with the form again. */
import { readAddress } from '../../../core/routing/addresses/address.ts'
import { matchRoute, type MatchedParameter } from '../../../core/routing/addresses/match.ts'
import { withQuery } from '../../../core/paging/numbered.ts'
import type { CommentField } from '../../../core/comments/rules.ts'
import type { Route } from '../../../core/shapes/schemas.ts'
import { buildAddress } from '../addresses/build-address.ts'
import { errorPage } from '../error-pages.ts'
import { former, notFound } from '../not-found.ts'
import { PageRendering } from '../page.ts'
import type { PageRequest, RouteInForce } from '../page-request.ts'
import { FORM_LIMIT } from '../request.ts'
import { pageResponse, redirect, type BlogResponse } from '../responses.ts'
import { rulesOf } from './form.ts'
import { pageOfComment } from './permalinks.ts'
import { submit, type CommentPorts, type CommentResult } from './submit.ts'
import { resultOf, type Fields, type OnStep, type SubmissionStep } from './submission-step.ts'
import { isOwnOrigin } from './own-origin.ts'
import { rememberedCookie, visitorOf, writerCookie } from './visitor.ts'

interface ActionInForce {
  index: number
  parameters: MatchedParameter[]
}

export async function act(
  ports: CommentPorts,
  page: PageRequest,
  inForce: ActionInForce,
): Promise<BlogResponse> {
  const steps: SubmissionStep[] = []
  const response = await answerForm(ports, page, inForce, (step) => {
    steps.push(step)
    page.tracer.submission(step)
  })
  return { ...response, submission: resultOf(steps, response.status) }
}

async function answerForm(
  ports: CommentPorts,
  page: PageRequest,
  { index, parameters }: ActionInForce,
  onStep: OnStep,
): Promise<BlogResponse> {
  const { site, request } = page
  const { routes, settings, say } = site.definition
  const compiled = routes[index]
  const route = compiled?.route
  const then = routes.find((one) => one.route.name === route?.then)
  if (!route || !then) throw new Error('The action has no route to show its result.')
  const at = { site, log: page.ports.log }
  const { origin } = request
  const isOwn = isOwnOrigin(origin, page.ports.origins, settings.origin)
  onStep({ step: 'origin', isOwn, origin: origin === 'own' ? null : (origin.origin ?? null) })
  if (!isOwn) {
    page.ports.log.info(
      { from: request.origin, own: [...page.ports.origins, settings.origin] },
      'a form was rejected; if it came from the blog, set “origin” in blog.yaml to its address',
    )
    return {
      ...errorPage(at, { status: 403, title: 'form-refused-title', text: 'form-refused-text' }),
      route: route.name,
    }
  }
  const found = await new PageRendering(page, { ...compiled, parameters }).value('post')
  if (found.outcome !== 'value') {
    const missed =
      found.outcome !== 'elsewhere' && found.missed
        ? [{ ...found.missed, route: route.name, parameters }]
        : []
    return (await former(page, missed, 308)) ?? (await notFound(page, route.name))
  }
  const built = buildAddress(site, then.route.name, {
    ...(found.value as object),
    ...Object.fromEntries(parameters.map(({ name, value }) => [name, value])),
  })
  if (!built.ok) throw new Error(built.problem.message)
  onStep({ step: 'post', page: built.path })
  const form = await request.form()
  onStep({ step: 'form', form })
  if (!form.ok) {
    const title = form.status === 413 ? 'form-too-large-title' : 'form-unreadable-title'
    const values = { limit: `${FORM_LIMIT / 1024} kB` }
    return {
      ...errorPage(at, { status: form.status, title, text: form.reason, values }),
      route: route.name,
    }
  }
  const post = found.value as { id: number }
  const visitor = visitorOf(ports, request)
  const { fields } = form
  const { pool, store } = page.tracer.observe(ports)
  const { clock, cursorKey } = ports
  const used = {
    pool,
    store,
    clock,
    cursorKey,
    spamScore: (words: readonly string[]) => ports.spamScore(words),
  }
  const result = await submit(used, {
    post,
    fields,
    rules: rulesOf(site, then.route.name),
    say,
    visitor,
    client: request.client,
    onStep,
  })
  if (result.outcome === 'no-post') return await notFound(page, route.name)
  if (result.outcome === 'again')
    return {
      ...(await formAgain(page, { path: built.path, then: then.route.name }, result, fields)),
      route: route.name,
    }
  const cookies = visitor.hasCommented ? [] : [writerCookie(ports, visitor.writer, settings.origin, true)]
  if (result.outcome === 'deleted') return { ...redirect(303, `${built.path}#comments`, route.name), cookies }
  const remember = fields['remember'] !== undefined
  if (result.values && (remember || visitor.remembered.name !== undefined))
    cookies.push(rememberedCookie(remember ? pick(result.values) : null, settings.origin))
  const shown = pageAt(page, built.path, then.route.name)
  const on = shown ? await pageOfComment(shown.page, shown.inForce, result.id) : null
  const location = on === null ? built.path : withQuery(built.path, new URLSearchParams(), on)
  return { ...redirect(303, `${location}#comment-${result.id}`, route.name), cookies }
}

const pick = ({ name, email, site }: Record<CommentField, string>) => ({ name, email, site })

/** Returns the page of a route at a path, whichever routes before it match and pass the request on. */
function pageAt(
  from: PageRequest,
  path: string,
  then: string,
): { page: PageRequest; inForce: RouteInForce & { route: Route } } | undefined {
  const { definition } = from.site
  const shown = readAddress(path, definition.policy)
  if (!shown.ok) throw new Error(shown.reason)
  let match = matchRoute(definition.table, 'GET', shown.path)
  while (match.outcome === 'matched' && match.route.route.name !== then)
    match = matchRoute(definition.table, 'GET', shown.path, match.index + 1)
  return match.outcome === 'matched'
    ? {
        page: { ...from, path: shown.path, shownPath: path, query: '', search: new URLSearchParams() },
        inForce: { ...match.route, parameters: match.parameters },
      }
    : undefined
}

/** Shows the page with the form again, with what was typed and what is wrong with it. */
async function formAgain(
  from: PageRequest,
  { path, then }: { path: string; then: string },
  { status, form, retryAfter }: CommentResult & { outcome: 'again' },
  fields: Fields,
): Promise<BlogResponse> {
  const at = pageAt(from, path, then)
  if (!at) return await notFound(from)
  const { page, inForce } = at
  const search = new URLSearchParams()
  // The page of comments that the form was on.
  for (const name of pageParametersOf(from, inForce.route.name)) {
    const value = fields[name]
    if (value !== undefined && value !== '1' && /^[1-9][0-9]{0,8}$/.test(value)) search.set(name, value)
  }
  const render = async (search: URLSearchParams) => {
    const rendering = new PageRendering({ ...page, search, query: search.toString(), form }, inForce)
    return { rendering, result: await rendering.run(inForce.route.template ?? '') }
  }
  let { rendering, result } = await render(search)
  // The page of comments may no longer exist. What was typed is shown in any case.
  if (result.outcome !== 'page' && search.size > 0)
    ({ rendering, result } = await render(new URLSearchParams()))
  if (result.outcome !== 'page') return await notFound(from)
  const response = pageResponse(page.site.definition, status, result.html, rendering)
  if (retryAfter !== undefined) response.headers['retry-after'] = String(retryAfter)
  return response
}

const pageParametersOf = ({ site }: PageRequest, route: string): string[] =>
  [...(site.reading.get(route)?.values() ?? [])].flatMap(({ meaning: { take } }) =>
    take.kind === 'pages' ? [take.parameter] : [],
  )
