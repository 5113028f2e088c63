/** Tells a cache elsewhere what to drop, over HTTP. */

export interface PurgeTarget {
  /** Where it listens for purges. */
  url: string
  /** Sent as a bearer token. */
  key: string | undefined
}

/** What to drop: all pages of these groups, or everything. */
export type Purged = { groups: readonly string[] } | { all: true }

/** How long a call may take, in milliseconds. */
const LONGEST_CALL = 1_000

/** Sends a purge as JSON. @throws unless it is confirmed with a status of success */
export async function sendPurge({ url, key }: PurgeTarget, purged: Purged): Promise<void> {
  const response = await fetch(url, {
    method: 'POST',
    redirect: 'error',
    headers: {
      'content-type': 'application/json',
      ...(key === undefined ? {} : { authorization: `Bearer ${key}` }),
    },
    body: JSON.stringify(purged),
    signal: AbortSignal.timeout(LONGEST_CALL),
  })
  await response.arrayBuffer()
  if (!response.ok) throw new Error(`The edge cache answered ${response.status}.`)
}
