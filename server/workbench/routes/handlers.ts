/** What the operations of the Routes area do. */
import { randomUUID } from 'node:crypto'
import { startingPoint } from '../../../core/blog/starting-points.ts'
import { describeQuery } from '../../../core/queries/explaining/describe.ts'
import { queriesOf } from '../../../core/shapes/route-data.ts'
import { buildPath } from '../../../core/routing/addresses/build.ts'
import type { CompiledRoute } from '../../../core/routing/addresses/compiled-route.ts'
import { answer, type BlogRequest } from '../../reader/answer.ts'
import type { Blog } from '../../reader/blog.ts'
import { nearestAddresses } from '../../reader/addresses/nearest.ts'
import { addressesOf, listingPages, type AddressPage } from '../../reader/addresses/real-addresses.ts'
import type { UnansweredAddress } from '../../reader/addresses/unanswered.ts'
import { Walk } from '../../reader/walk/walk.ts'
import { explainEmptyResults } from '../../probes/why-empty.ts'
import { loadDocuments } from '../../publish/documents.ts'
import { changeSlug, judgeSlug } from '../../author/slugs/slugs.ts'
import { DocumentEntity } from '../../store/entities/definition.ts'
import type { RouteSummary, Trial } from '../../../contract/routes.ts'
import type { routeOperations } from '../../../contract/routes.ts'
import type { HandlersOf } from '../http/handlers-of.ts'
import { Refusal } from '../http/refusal.ts'
import { addressFor, hiding, takenBefore } from '../../reader/addresses/slug-address.ts'

/** Addresses of a route given at a time. */
const LISTED = 50
/** Rows of a route whose listings’ pages are counted one by one; with more, pages are left out of the count. */
const COUNTED = 40
const NEAREST_SHOWN = 50

export function routeHandlers(blog: Blog): HandlersOf<typeof routeOperations> {
  return {
    'GET /api/routes': () => Promise.all(blog.site.definition.routes.map((one) => summary(blog, one))),
    'GET /api/routes/addresses': async ({ query }) => {
      const compiled = routeNamed(blog, query.route)
      const found = await addressesOf(blog, blog.site, compiled, {
        page: Number(query.page ?? '1'),
        size: LISTED,
      })
      return {
        addresses: (found?.addresses ?? []).map(({ path, title }) => ({ path, title })),
        total: found?.total ?? null,
        size: LISTED,
      }
    },
    'POST /api/routes/try': ({ body }) => Promise.all(body.addresses.map((one) => tryAddress(blog, one))),
    'POST /api/routes/build': ({ body }) => {
      const compiled = routeNamed(blog, body.route)
      const built = buildPath(compiled, body.parameters, blog.site.definition.policy)
      const pairs = compiled.pattern.names.map((name) => `${name}: …`).join(', ')
      return {
        path: built.ok ? built.path : null,
        message: built.ok ? null : built.message,
        template: `{{ "${body.route}" | url${pairs === '' ? '' : `: ${pairs}`} }}`,
      }
    },
    'GET /api/unanswered': async () => {
      const list = await stillUnanswered(blog, await blog.unanswered.list(500))
      return await Promise.all(
        list.map(async ({ path, times, lastAt }, index) => ({
          path,
          times,
          lastAt: lastAt.toISOString(),
          nearest:
            index < NEAREST_SHOWN ? ((await nearestAddresses(blog, blog.site, path, 1))[0] ?? null) : null,
        })),
      )
    },
    'DELETE /api/unanswered': async ({ query }) => {
      await blog.unanswered.forget(query.path)
      return { forgotten: true }
    },
    'GET /api/slug': async ({ query: { kind, text, from = 'slug', own } }) => {
      const asked = { kind, text, fromTitle: from === 'title', own }
      const judged = await judgeSlug(blog.database, blog.site.definition.slugRules, asked, (slug) =>
        hiding(blog, kind, slug),
      )
      return {
        ...judged,
        address: judged.slug === '' ? null : (addressFor(blog, kind, judged.slug)?.path ?? null),
      }
    },
    'PUT /api/slug': async ({ body: { kind, from, to } }) => {
      const result = await changeSlug(blog.database, blog.site.definition.slugRules, kind, from, to)
      if (result.outcome === 'unknown')
        throw new Refusal({ status: 404, title: `There is no ${kind} “${from}”` })
      if (result.outcome === 'refused')
        throw new Refusal({ status: 422, title: 'Not changed', detail: result.message })
      for (const change of result.changes) blog.changed(change)
      const hidden = hiding(blog, kind, result.current)
      return {
        current: result.current,
        address: addressFor(blog, kind, result.current)?.path ?? null,
        former: result.former,
        note: hidden
          ? `${hidden.address} is answered by route “${hidden.route}”, so readers will not see it there`
          : null,
      }
    },
    'POST /api/starting-point': async ({ body }) => {
      const documents = await loadDocuments(blog.database)
      const made = startingPoint(body, { documents, routes: blog.site.definition.routes })
      if (!made.ok) throw new Refusal({ status: 422, title: 'It cannot be made so', detail: made.message })
      const rows = await blog.database.getRepository(DocumentEntity).find()
      return {
        changes: made.changes.map(({ document, text }) => ({
          document,
          text,
          before: documents.get(document) ?? '',
          version: rows.find((row) => row.path === document)?.version ?? 0,
        })),
        address: made.route.path,
      }
    },
  }
}

function routeNamed(blog: Blog, name: string): CompiledRoute {
  const found = blog.site.definition.routes.find((one) => one.route.name === name)
  if (!found) throw new Refusal({ status: 404, title: `There is no route “${name}”` })
  return found
}

async function summary(blog: Blog, compiled: CompiledRoute): Promise<RouteSummary> {
  const { site } = blog
  const { route, pattern, method } = compiled
  const isPage = method === 'GET' && !route.redirect
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
      return meaning ? [{ name, sentence: describeQuery(meaning), paged: meaning.take.kind === 'pages' }] : []
    }),
    line: site.definition.routePlaces.get(route.name)?.line ?? null,
    example: found?.addresses[0]?.path ?? null,
    addresses: found ? await countAnswered(blog, compiled, found) : null,
  }
}

/**
 * Addresses that this route answers, and the further pages of its listings, where there are few enough to look at
 * each: an earlier route may take some.
 */
async function countAnswered(blog: Blog, compiled: CompiledRoute, found: AddressPage): Promise<number> {
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

const readerAsks = (target: string, sparing = false): BlogRequest => ({
  id: randomUUID(),
  method: 'GET',
  target,
  as: 'reader',
  sparing,
  header: () => undefined,
  form: () => Promise.resolve({ ok: false, status: 415, reason: '' }),
})

/** Leaves out, and forgets, what has found an answer since: a route, a redirect, a slug. */
async function stillUnanswered(blog: Blog, list: UnansweredAddress[]): Promise<UnansweredAddress[]> {
  const statuses = await Promise.all(
    list.map(async ({ path }) => (await answer(blog, readerAsks(path, true))).status),
  )
  const isAnswered = (index: number) => (statuses[index] ?? 500) < 400
  await Promise.all(
    list.filter((_, index) => isAnswered(index)).map(({ path }) => blog.unanswered.forget(path)),
  )
  return list.filter((_, index) => !isAnswered(index))
}

async function tryAddress(blog: Blog, given: string): Promise<Trial> {
  const address = given.trim()
  const target = address.replace(/^https?:\/\/[^/?#]*/i, '').replace(/#.*$/s, '')
  const path = target.startsWith('/') ? target : `/${target}`
  const request = readerAsks(path)
  const walk = new Walk(request, blog.clock(), blog.site.version)
  const { status, headers, route } = await answer(blog, request, walk)
  const { record } = walk
  const trial = (outcome: Trial['outcome'], reason: string, to: string | null = null): Trial => ({
    address: given,
    outcome,
    status,
    route,
    reason,
    to,
  })
  if (status >= 500) return trial('failed', record.failure?.message ?? 'the request failed')
  if (status >= 300 && status < 400)
    return trial(
      'redirect',
      record.route.note ?? `route “${route ?? ''}” redirects`,
      headers['location'] ?? null,
    )
  if (status === 200) {
    const parameters = record.parameters.map(({ name, value }) => `${name} = ${value}`).join(', ')
    return trial('answered', parameters === '' ? `route “${route ?? ''}”` : parameters)
  }
  if (status !== 404)
    return trial('refused', record.route.note ?? record.failure?.message ?? `status ${status}`)
  await explainEmptyResults(blog, walk)
  const empty = record.queries.runs.find((run) => run.outcome === 'empty')?.why
  const near = record.route.candidates.findLast((one) => one.reason !== null && / is not /.test(one.reason))
  const reason =
    record.route.name !== null || record.route.note?.includes('matched')
      ? (empty ?? 'its query found nothing')
      : near
        ? `route “${near.route}”: ${near.reason ?? ''}`
        : 'no route has this form'
  const [nearest] = await nearestAddresses(blog, blog.site, path.replace(/\?.*$/s, ''), 1)
  return trial('not-found', reason, nearest?.path ?? null)
}
