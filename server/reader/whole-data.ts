/** Loads all data of a route, for answers without a template. */
import { Ended, PageData } from './page-data.ts'
import type { Ending, PageRequest, RouteInForce } from './page-request.ts'

export interface WholeData {
  data: PageData
  /** In the order of the route. */
  values: readonly (readonly [name: string, value: unknown])[]
}

/** Returns the data, or how the request ends without it. */
export async function loadWholeData(
  page: PageRequest,
  route: RouteInForce,
): Promise<({ outcome: 'loaded' } & WholeData) | Ending> {
  const data = new PageData(page, route, { fetches: 'everything' })
  const names = Object.keys(data.entries).filter((one) => !route.shared.has(one))
  try {
    await data.load(data.deciding)
    await data.load(names)
  } catch (error) {
    if (error instanceof Ended) return error.ending
    throw error
  } finally {
    page.tracer.queriesFinished(() => ({ names, notRun: [], read: new Set(), reads: null, failed: false }))
  }
  return {
    outcome: 'loaded',
    data,
    values: names.map((name) => [name, data.loaded.get(name).value] as const),
  }
}
