/** A page's data as JSON: the same route, parameters, queries and endings as the page, without its templates. */
import { API_DOCUMENT } from '../../core/routing/addresses/served.ts'
import { pageLinks, resultJson, type Json } from '../../core/syndication/values.ts'
import { STATUS_CODES } from 'node:http'
import type { BlogResponse } from './responses.ts'
import { Ended, PageData, type Ending, type PageRequest, type RouteInForce } from './page-data.ts'

const JSON_TYPE = 'application/json'

/** Answers with the data of a route. */
export async function jsonPage(
  page: PageRequest,
  route: RouteInForce,
): Promise<{ outcome: 'answered'; response: BlogResponse } | Ending> {
  const data = new PageData(page, route, { fetches: 'everything' })
  const names = Object.keys(data.entries)
  try {
    await data.load(data.deciding)
    await data.load(names)
  } catch (error) {
    if (error instanceof Ended) return error.ending
    throw error
  } finally {
    page.tracer.queriesFinished(() => ({
      names,
      notRun: [],
      read: new Set(),
      reads: null,
      failed: false,
    }))
  }
  const values = names.map((name) => [name, data.loaded.get(name).value] as const)
  const body: Json = Object.fromEntries(values.map(([name, value]) => [name, resultJson(value)]))
  const links = [
    ...values.flatMap(([, value]) => pageLinks(value)),
    { rel: 'canonical', url: `${page.site.definition.settings.origin ?? ''}${data.canonical}` },
    // RFC 8631
    { rel: 'service-desc', url: API_DOCUMENT },
  ]
  const link = links.map(({ rel, url }) => `<${url}>; rel="${rel}"`).join(', ')
  return {
    outcome: 'answered',
    response: {
      status: 200,
      headers: { ...JSON_HEADERS, link },
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
