/** Renders addresses into a store of their own, in which nothing else is: the copies that readers would get. */
import { ProcessFragmentStore } from '../../../core/caching/store.ts'
import type { DatabasePort, PoolPort, SitePort } from '../../publish/ports.ts'
import { everyAddress } from '../../reader/addresses/real-addresses.ts'
import { answer, type AnswerPorts } from '../../reader/answer.ts'
import type { ScratchPort } from '../../reader/ports.ts'
import { internalRequest } from '../../reader/request.ts'
import { sampleOf } from '../../../core/checks/sample.ts'

/** Large enough for all that is rendered at once, so that nothing is evicted. */
const BYTES = 256 * 1024 * 1024
/** The addresses of each route that are considered when its newest, oldest and some between are chosen. */
const CONSIDERED = 5_000

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

/** Returns addresses of pages, a number of each route: the newest, the oldest and some between. */
export async function addressesOfPages(
  blog: PoolPort & DatabasePort & SitePort,
  ofEach: { newest: number; oldest: number; between: number },
): Promise<{ addresses: string[]; total: number }> {
  const { site } = blog
  const addresses: string[] = []
  let total = 0
  for (const compiled of site.definition.routes) {
    const { template, action } = compiled.route
    if (template === undefined || action !== undefined) continue
    const own: string[] = []
    for await (const { path } of everyAddress(blog, site, compiled, { limit: CONSIDERED })) own.push(path)
    total += own.length
    addresses.push(...sampleOf(own, ofEach))
  }
  return { addresses, total }
}
