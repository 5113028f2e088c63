/** Sends purge requests to an edge cache. */
import { inTime } from '../in-time.ts'

export interface PurgeTarget {
  /** The address for purge requests. */
  url: string
  /** Sent as a bearer token. */
  key: string | undefined
}

/** Groups to purge, or everything. */
export type Purged = { groups: readonly string[] } | { all: true }

/** The timeout of a request, in milliseconds. */
const LONGEST_CALL = 1_000

/** Sends a purge request. @throws unless the response has a status of success */
export async function sendPurge({ url, key }: PurgeTarget, purged: Purged): Promise<void> {
  const response = await inTime(async (signal) => {
    const answered = await fetch(url, {
      method: 'POST',
      redirect: 'error',
      headers: {
        'content-type': 'application/json',
        ...(key === undefined ? {} : { authorization: `Bearer ${key}` }),
      },
      body: JSON.stringify(purged),
      signal,
    })
    await answered.arrayBuffer()
    return answered
  }, LONGEST_CALL)
  if (!response.ok) throw new Error(`The edge cache answers ${response.status}.`)
}
