/** A page's data as JSON: the same route, parameters, queries and endings as the page, without its templates. */
import { API_DOCUMENT } from '../../core/routing/addresses/served.ts'
import { pageLinks, resultJson, type Json } from '../../core/syndication/values.ts'
import { cacheControl, pageRule } from '../../core/caching/rules.ts'
import { FragmentSession } from '../../core/caching/session.ts'
import { STATUS_CODES } from 'node:http'
import { countsOf, isCounted } from './pages/copy-counts.ts'
import type { PageCopy } from './pages/page-copies.ts'
import { cacheStatus, PRIVATE, type BlogResponse } from './responses.ts'
import type { Ending, PageRequest, RouteInForce } from './page-request.ts'
import { loadWholeData } from './whole-data.ts'

const JSON_TYPE = 'application/json'

/** Answers with the data of a route. @param copy is made of it */
export async function jsonPage(
  page: PageRequest,
  route: RouteInForce,
  copy?: PageCopy,
): Promise<{ outcome: 'answered'; response: BlogResponse } | Ending> {
  const { ports } = page
  const session = new FragmentSession(
    copy && ports.trustsCopies ? ports.fragments : undefined,
    ports.clock().getTime(),
  )
  // Before any row is read.
  const begun = performance.now()
  const loaded = await loadWholeData(page, route)
  if (loaded.outcome !== 'loaded') return loaded
  const { data, values } = loaded
  const body: Json = Object.fromEntries(values.map(([name, value]) => [name, resultJson(value)]))
  const links = [
    ...values.flatMap(([, value]) => pageLinks(value)),
    { rel: 'canonical', url: `${page.site.definition.settings.origin ?? ''}${data.canonical}` },
    // RFC 8631
    { rel: 'service-desc', url: API_DOCUMENT },
  ]
  if (isCounted(page)) {
    const outcome = copy ? 'miss' : 'bypass'
    const now = ports.clock().getTime()
    countsOf(ports.fragments).note(`page ${route.route.name}`, outcome, now, performance.now() - begun)
  }
  const link = links.map(({ rel, url }) => `<${url}>; rel="${rel}"`).join(', ')
  if (copy) {
    session.open()
    const kept = copy.keepData(
      session,
      JSON.stringify(body),
      { ...JSON_HEADERS, link },
      data.loaded.dependence(),
    )
    if (data.isMadeUp) session.dropPage()
    if (!data.isUnstable) {
      const due = session.needsDueTime ? await ports.nextDue(begun) : undefined
      session.commit(due?.at ?? Infinity)
      copy.share(due)
    }
    if (kept) {
      const { isStored } = copy
      const status = cacheStatus([], isStored ? 'fwd=miss; stored' : 'fwd=miss')
      const elsewhere = isStored ? copy.storedFields : undefined
      return {
        outcome: 'answered',
        response: { ...kept, headers: { ...kept.headers, ...status, ...elsewhere } },
      }
    }
  }
  return {
    outcome: 'answered',
    response: {
      status: 200,
      headers: {
        ...JSON_HEADERS,
        link,
        'cache-control':
          page.request.as === 'author'
            ? PRIVATE['cache-control']
            : cacheControl(pageRule(page.site.definition.cache, route.route.name)),
        ...cacheStatus([], 'fwd=bypass'),
      },
      body: JSON.stringify(body),
      route: route.route.name,
      fragments: [],
    },
  }
}

/** Headers of JSON responses. Any site may read what every reader may read. */
export const JSON_HEADERS = {
  'content-type': JSON_TYPE,
  'cache-control': 'no-cache',
  vary: 'accept',
  'access-control-allow-origin': '*',
  'access-control-expose-headers': 'link',
  'x-content-type-options': 'nosniff',
} as const

/** Returns problem details (RFC 9457): the meaning of the status, and the request's id. */
export const problemJson = (status: number, id: string): string =>
  JSON.stringify({
    title: STATUS_CODES[status] ?? 'Error',
    status,
    instance: `urn:uuid:${id}`,
  })
