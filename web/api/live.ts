/** Streams of events from the API, which reconnect by themselves. */
import { EventSource, type FetchLike } from 'eventsource'
import { fetchSigned } from './client.ts'

/** Opens a stream with the session's secret, which the browser's own EventSource cannot send. */
export const openStream = (path: string): EventSource =>
  new EventSource(new URL(path, window.location.origin), {
    fetch: ((url, init) => fetchSigned(url, init as RequestInit)) as FetchLike,
  })
