/** Renders addresses into a store of their own, in which nothing else is: the copies that readers would get. */
import { ProcessFragmentStore } from '../../../core/caching/store.ts'
import type { CompiledRoute } from '../../../core/routing/addresses/compiled-route.ts'
import type { Site } from '../../publish/site.ts'
import type { DatabasePort, PoolPort, SitePort } from '../../publish/ports.ts'
import { addressesOf } from '../../reader/addresses/real-addresses.ts'
import { answer, type AnswerPorts } from '../../reader/answer.ts'
import type { ScratchPort } from '../../reader/ports.ts'
import { internalRequest } from '../../reader/request.ts'

/** Large enough for all that is rendered at once, so that nothing is evicted. */
const BYTES = 256 * 1024 * 1024

export interface RenderedNow {
  store: ProcessFragmentStore
  /** Address → status and text. */
  answers: Map<string, { status: number; body: string }>
}

/**
 * Renders addresses one after the other.
 * @param signal stops it
 */
export async function renderedNow(
  blog: ScratchPort,
  addresses: readonly string[],
  instead: Partial<Pick<AnswerPorts, 'pool' | 'site'>> = {},
  signal?: AbortSignal,
): Promise<RenderedNow> {
  const store = new ProcessFragmentStore(BYTES)
  const ports = blog.withCopies(store, instead)
  const answers: RenderedNow['answers'] = new Map()
  for (const address of addresses) {
    signal?.throwIfAborted()
    const { status, body } = await answer(ports, internalRequest(address))
    answers.set(address, { status, body })
  }
  return { store, answers }
}

/** How many addresses of a route are chosen. */
export interface OfEach {
  newest: number
  oldest: number
  between: number
}

/** Returns addresses of pages, a number of each route: the newest, the oldest and some between. */
export async function addressesOfPages(
  blog: PoolPort & DatabasePort & SitePort,
  ofEach: OfEach,
): Promise<{ addresses: string[]; total: number }> {
  const { site } = blog
  const addresses: string[] = []
  let total = 0
  for (const compiled of site.definition.routes) {
    const { template, action } = compiled.route
    if (template === undefined || action !== undefined) continue
    const own = await sampledAddresses(blog, site, compiled, ofEach)
    total += own.total
    addresses.push(...own.paths)
  }
  return { addresses, total }
}

/** Reads no more rows than are chosen: a blog may have any number of them. */
async function sampledAddresses(
  blog: PoolPort & DatabasePort,
  site: Site,
  compiled: CompiledRoute,
  { newest, oldest, between }: OfEach,
): Promise<{ paths: string[]; total: number }> {
  const paths = new Map<number, string>()
  let total = 0
  /** @param size of the pages into which the addresses are divided */
  const read = async (page: number, size: number) => {
    const found = await addressesOf(blog, site, compiled, { page, size })
    total = found?.total ?? 0
    for (const [at, { path }] of (found?.addresses ?? []).entries()) paths.set((page - 1) * size + at, path)
  }
  await read(1, newest + oldest + between)
  if (total <= newest + oldest + between) return { paths: [...paths.values()], total }
  paths.clear()
  if (oldest > 0) await read(1, oldest)
  const last = Math.ceil(total / newest)
  if (last > 1) await read(last - 1, newest)
  await read(last, newest)
  for (const at of paths.keys()) if (at >= oldest && at < total - newest) paths.delete(at)
  const step = (total - oldest - newest) / between
  for (let one = 0; one < between; one++) await read(Math.floor(oldest + one * step) + 1, 1)
  return { paths: [...paths].sort(([a], [b]) => a - b).map(([, path]) => path), total }
}
