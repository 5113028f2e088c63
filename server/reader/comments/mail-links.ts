/** Signed links in e-mails: the id of a subscription and a signature, so that only the recipient knows them. */
import { SERVED } from '../../../core/routing/addresses/served.ts'
import type { CursorKeyPort, OriginsPort, SitePort } from '../../publish/ports.ts'
import { isSigned, signFor } from '../secret.ts'

const purpose = 'e-mails about replies'

/** Returns the path at which a subscription is confirmed and ended. */
export const subscriptionPath = ({ cursorKey }: CursorKeyPort, subscription: number): string =>
  SERVED.subscription.replace(':name', `${subscription}.${signFor(cursorKey, purpose)(String(subscription))}`)

/** Returns the id of a subscription from the last part of its path; undefined if it is not signed. */
export function readSubscription({ cursorKey }: CursorKeyPort, name: string): number | undefined {
  const [, id = '', signature = ''] = /^([1-9][0-9]{0,8})\.([\w-]{1,40})$/.exec(name) ?? []
  return id !== '' && isSigned(signFor(cursorKey, purpose), id, signature) ? Number(id) : undefined
}

/** Returns the origin under which readers reach the blog: the declared one, or where it listens. */
export const publicOrigin = ({ site, origins }: SitePort & OriginsPort): string =>
  (site.definition.settings.origin ?? origins[0] ?? '').replace(/\/$/, '')
