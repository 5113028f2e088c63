/** Decides whether a form was sent from the blog itself. */
import type { RequestOrigin } from '../request.ts'

/**
 * Compares where a request comes from and where it was sent to with the addresses of the blog, never with each other: a
 * name that leads to this machine would pass for the blog otherwise.
 * @param origins under which the blog listens
 * @param publicOrigin the blog's address for readers, if it has one
 */
export function isOwnOrigin(
  from: RequestOrigin | 'own',
  origins: readonly string[],
  publicOrigin: string | undefined,
): boolean {
  if (from === 'own') return true
  const { origin, host, fetchSite } = from
  const own = [...origins, ...(publicOrigin === undefined ? [] : [publicOrigin])].map((one) =>
    one.toLowerCase(),
  )
  const hosts = own.map((one) => one.replace(/^https?:\/\//, ''))
  if (host === undefined || !hosts.includes(host.toLowerCase())) return false
  if (origin === undefined) return fetchSite === 'same-origin'
  return own.includes(origin.toLowerCase())
}
