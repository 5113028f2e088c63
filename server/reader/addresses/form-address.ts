/** Finds the address to which a comment form can be sent: of the newest post that is open, since older ones may be closed. */
import type { CompiledRoute } from '../../../core/routing/addresses/compiled-route.ts'
import type { DatabasePort, PoolPort } from '../../publish/ports.ts'
import type { Site } from '../../publish/site.ts'
import { everyAddress, type RealAddress } from './real-addresses.ts'

/** Addresses among which one is chosen. */
const MOST = 5_000

/** @param compiled an action */
export async function formAddress(
  blog: PoolPort & DatabasePort,
  site: Site,
  compiled: CompiledRoute,
): Promise<string | undefined> {
  const found: RealAddress[] = []
  for await (const one of everyAddress(blog, site, compiled, { limit: MOST })) found.push(one)
  const { rows } = await blog.pool.query<{ id: number }>(
    'SELECT id FROM post WHERE id = ANY ($1) AND comments_open AND published_at <= now() ORDER BY published_at DESC LIMIT 1',
    [found.flatMap(({ row }) => (row?.source === 'posts' ? [row.id] : []))],
  )
  return (found.find(({ row }) => row?.id === rows[0]?.id) ?? found[0])?.path
}
