/** Handlers of the Routes area. */
import { commentable } from '../../../core/blog/comments-start.ts'
import { commentParts } from './comment-parts.ts'
import { startingPoint } from '../../../core/blog/starting-points.ts'
import { describeQuery } from '../../../core/queries/explaining/describe.ts'
import { queriesOf } from '../../../core/shapes/route-data.ts'
import { buildPath } from '../../../core/routing/addresses/build.ts'
import type { CompiledRoute } from '../../../core/routing/addresses/compiled-route.ts'
import { answer, type AnswerPorts } from '../../reader/answer.ts'
import { internalRequest } from '../../reader/request.ts'
import type { NotFoundPort } from '../../reader/ports.ts'
import { nearestAddresses } from '../../reader/addresses/nearest.ts'
import {
  addressesOf,
  bindingOf,
  listingPages,
  type AddressPage,
} from '../../reader/addresses/real-addresses.ts'
import type { NotFoundAddress } from '../../store/content/not-found.ts'
import { Walk } from '../../reader/walk/walk.ts'
import { explainEmptyResults } from '../../probes/why-empty.ts'
import { loadDocuments } from '../../publish/documents.ts'
import type { AddressTest, RouteSummary, routeOperations } from '../../../contract/routes.ts'
import { success, unknown, type Outcome } from '../../../core/shapes/outcome.ts'
import { redirectNeedsData } from '../../../core/routing/addresses/redirect.ts'
import { ADDRESS_PROBLEMS } from '../../../core/routing/problems.ts'
import type { SitePort } from '../../publish/ports.ts'
import type { Site } from '../../publish/site.ts'
import type { SlugKind } from '../../../core/shapes/content-kinds.ts'
import { slugKindOf } from '../../store/content/slugs.ts'
import { mapValue, type HandlersOf } from '../http/handlers-of.ts'
import { takenBefore } from '../../reader/addresses/slug-address.ts'

type Ports = AnswerPorts & NotFoundPort

/** How many addresses of a route are listed at a time. */
const LISTED = 50
/** Up to how many rows of a route the pages of listings are counted for each. With more, pages are not counted. */
const COUNTED = 40
/** For how many addresses a similar one is looked up. */
const NEAREST_SHOWN = 50
/** The maximum number of addresses in the list of 404s. */
const NOT_FOUND_LIMIT = 500

export function routeHandlers(blog: Ports, shipped: string): HandlersOf<typeof routeOperations> {
  return {
    'GET /api/routes': async () =>
      success(await Promise.all(blog.site.definition.routes.map((one) => summary(blog, one)))),
    'GET /api/routes/addresses': async ({ query }) => {
      const compiled = routeNamed(blog, query.route)
      if (!compiled.ok) return compiled
      const found = await addressesOf(blog, blog.site, compiled.value, {
        page: Number(query.page ?? '1'),
        size: LISTED,
      })
      return success({
        addresses: (found?.addresses ?? []).map(({ path, title }) => ({ path, title })),
        total: found?.total ?? null,
        size: LISTED,
      })
    },
    'POST /api/routes/test': async ({ body }) =>
      success(await Promise.all(body.addresses.map((one) => testAddress(blog, one)))),
    'POST /api/routes/build': ({ body }) => {
      const compiled = routeNamed(blog, body.route)
      if (!compiled.ok) return compiled
      const built = buildPath(compiled.value, body.parameters, blog.site.definition.policy)
      const pairs = compiled.value.pattern.names.map((name) => `${name}: …`).join(', ')
      return success({
        path: built.ok ? built.path : null,
        message: built.ok ? null : built.problem.message,
        template: `{{ "${body.route}" | url${pairs === '' ? '' : `: ${pairs}`} }}`,
      })
    },
    'GET /api/not-found': async () => {
      const list = await stillNotFound(blog, await blog.notFound.list(NOT_FOUND_LIMIT))
      const items = list.map(async ({ path, times, lastAt }, index) => ({
        path,
        times,
        lastAt: lastAt.toISOString(),
        nearest:
          index < NEAREST_SHOWN ? ((await nearestAddresses(blog, blog.site, path, 1))[0] ?? null) : null,
      }))
      return success(await Promise.all(items))
    },
    'DELETE /api/not-found': async ({ query }) => {
      await blog.notFound.delete(query.path)
      return success({ deleted: true })
    },
    'GET /api/routes/commentable': async () =>
      success(commentable(blog.site.definition.routes, await loadDocuments(blog.database))),
    'POST /api/routes/draft': async ({ body }) => {
      const documents = await loadDocuments(blog.database)
      const drafted = startingPoint(body, {
        documents,
        routes: blog.site.definition.routes,
        parts: await commentParts(shipped),
      })
      return mapValue(drafted, ({ route, changes }) => ({
        steps: changes.map(({ document, text }) => ({
          do: 'save-document' as const,
          document,
          text,
          basis: documents.get(document) ?? '',
        })),
        address: route.path,
      }))
    },
  }
}

function routeNamed({ site }: SitePort, name: string): Outcome<CompiledRoute> {
  const found = site.definition.routes.find((one) => one.route.name === name)
  return found
    ? success(found)
    : unknown({ file: 'routes.yaml', ...ADDRESS_PROBLEMS['address-route-unknown'](name) })
}

async function summary(blog: Ports, compiled: CompiledRoute): Promise<RouteSummary> {
  const { site } = blog
  const { route, pattern, method } = compiled
  const isPage = method === 'GET' && (!route.redirect || redirectNeedsData(route))
  const found = isPage ? await addressesOf(blog, site, compiled, { size: COUNTED }) : undefined
  return {
    name: route.name,
    path: pattern.text,
    method,
    parameters: pattern.names.map((name, index) => ({ name, type: pattern.types[index] ?? 'text' })),
    template: route.template ?? null,
    action: route.action ?? null,
    redirect: route.redirect ? { to: route.redirect.to, status: route.redirect.status ?? 301 } : null,
    queries: queriesOf(route).flatMap((name) => {
      const meaning = site.queries.get(name)?.meaning
      if (!meaning) return []
      const pagesBy = meaning.take.kind === 'pages' ? meaning.take.by : null
      return [{ name, sentence: describeQuery(meaning), pagesBy }]
    }),
    rows: shownRows(site, compiled),
    line: site.definition.routePlaces.get(route.name)?.line ?? null,
    example: found?.addresses[0]?.path ?? null,
    addresses: found ? await countAnswered(blog, compiled, found) : null,
  }
}

/** Returns what a route shows, if its only parameter is a slug. */
function shownRows(site: Site, compiled: CompiledRoute): SlugKind | null {
  const [parameter, ...more] = compiled.pattern.names
  const binding = compiled.route.redirect ? undefined : bindingOf(site, compiled)
  if (!binding || parameter === undefined || more.length > 0) return null
  return slugKindOf(binding.source, binding.fields[parameter] ?? '') ?? null
}

/**
 * Counts the addresses that this route answers and the further pages of its listings. If there are few addresses, each is
 * checked, because an earlier route may answer it.
 */
async function countAnswered(blog: Ports, compiled: CompiledRoute, found: AddressPage): Promise<number> {
  if (found.total > found.addresses.length) return found.total
  let count = 0
  for (const { path } of found.addresses) {
    const bare = path.replace(/(.)\/$/, '$1')
    if (takenBefore(blog, compiled, bare)) continue
    count++
    const match = compiled.pattern.regexp.exec(bare)
    const parameters = Object.fromEntries(
      compiled.pattern.names.map((name, index) => [name, match?.[index + 1]]),
    )
    for (const { pages } of await listingPages(blog, blog.site, compiled, parameters))
      count += Math.max(0, pages - 1)
  }
  return count
}

/** Deletes and leaves out addresses that are answered now, by a route, a redirect or a slug. */
async function stillNotFound(blog: Ports, list: NotFoundAddress[]): Promise<NotFoundAddress[]> {
  const statuses = await Promise.all(
    list.map(async ({ path }) => (await answer(blog, internalRequest(path, { sparing: true }))).status),
  )
  const isAnswered = (index: number) => (statuses[index] ?? 500) < 400
  await Promise.all(
    list.filter((_, index) => isAnswered(index)).map(({ path }) => blog.notFound.delete(path)),
  )
  return list.filter((_, index) => !isAnswered(index))
}

async function testAddress(blog: Ports, given: string): Promise<AddressTest> {
  const address = given.trim()
  const target = address.replace(/^https?:\/\/[^/?#]*/i, '').replace(/#.*$/s, '')
  const path = target.startsWith('/') ? target : `/${target}`
  const request = internalRequest(path)
  const walk = new Walk(request, blog.clock(), blog.site.version)
  const { status, headers, route } = await answer(blog, request, walk)
  const { record } = walk
  const result = (
    outcome: AddressTest['outcome'],
    reason: string,
    to: string | null = null,
  ): AddressTest => ({
    address: given,
    outcome,
    status,
    route,
    reason,
    to,
  })
  if (status >= 500) return result('failed', record.failure?.message ?? 'The request failed.')
  if (status >= 300 && status < 400)
    return result(
      'redirect',
      record.route.note ?? `Route “${route ?? ''}” redirects.`,
      headers['location'] ?? null,
    )
  if (status === 200) {
    const parameters = record.parameters.map(({ name, value }) => `${name} = ${value}`).join(', ')
    return result('answered', parameters === '' ? `Route “${route ?? ''}”` : parameters)
  }
  if (status !== 404)
    return result('refused', record.route.note ?? record.failure?.message ?? `Status ${status}`)
  await explainEmptyResults(blog, walk)
  const empty = record.queries.runs.find((run) => run.outcome === 'empty')?.why
  const near = record.route.candidates.findLast((one) => one.reason !== null && / is not /.test(one.reason))
  const reason =
    record.route.name !== null || record.route.note?.includes('matched')
      ? (empty ?? 'Its query returned no row.')
      : near
        ? `Route “${near.route}” does not match: ${near.reason ?? ''}.`
        : 'No route matches this address.'
  const [nearest] = await nearestAddresses(blog, blog.site, path.replace(/\?.*$/s, ''), 1)
  return result('not-found', reason, nearest?.path ?? null)
}
