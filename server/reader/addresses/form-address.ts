/** Finds the address to which a comment form can be sent: of the newest post that is open, since older ones may be closed. */
import type { CompiledRoute } from '../../../core/routing/addresses/compiled-route.ts'
import type { DatabasePort, PoolPort } from '../../publish/ports.ts'
import type { Site } from '../../publish/site.ts'
import { everyAddress, type RealAddress } from './real-addresses.ts'

/** Addresses among which one is chosen. */
const MOST = 5_000

/** An address of a form, with the post that it belongs to. */
export interface FormPlace {
  path: string
  post: number | undefined
}

/** @param compiled an action */
export async function formPlace(
  blog: PoolPort & DatabasePort,
  site: Site,
  compiled: CompiledRoute,
): Promise<FormPlace | undefined> {
  const found: RealAddress[] = []
  for await (const one of everyAddress(blog, site, compiled, { limit: MOST })) found.push(one)
  const idOf = ({ row }: RealAddress) => (row?.source === 'posts' ? row.id : undefined)
  const { rows } = await blog.pool.query<{ id: number }>(
    'SELECT id FROM post WHERE id = ANY ($1) AND comments_open AND published_at <= now() ORDER BY published_at DESC LIMIT 1',
    [found.flatMap((one) => idOf(one) ?? [])],
  )
  const chosen = found.find((one) => idOf(one) === rows[0]?.id) ?? found[0]
  return chosen && { path: chosen.path, post: idOf(chosen) }
}

/** @param compiled an action */
export const formAddress = async (...words: Parameters<typeof formPlace>): Promise<string | undefined> =>
  (await formPlace(...words))?.path
