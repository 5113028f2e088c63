/** The blog's recent requests, live. */
import { useEffect, useState } from 'react'
import type { TrafficItem } from '../../contract/walk.ts'
import { call } from './client.ts'
import { openStream } from './live.ts'

/** How many requests are shown. */
const SHOWN = 100

/** Returns the latest requests first. While paused, new requests are held back. */
export function useTraffic(paused: boolean): { items: TrafficItem[]; waiting: number } {
  const [items, setItems] = useState<TrafficItem[]>([])
  const [held, setHeld] = useState<TrafficItem[] | null>(null)
  useEffect(() => {
    let live = true
    const add = (found: TrafficItem[]) =>
      setItems((known) =>
        [...found, ...known.filter((one) => !found.some((other) => other.id === one.id))]
          .sort((a, b) => (a.at < b.at ? 1 : -1))
          .slice(0, SHOWN),
      )
    const load = () =>
      call('GET /api/traffic', {}).then(
        (found) => live && add(found),
        () => undefined,
      )
    const source = openStream('/api/traffic/stream')
    source.addEventListener('hello', () => void load())
    source.addEventListener('request', (event: MessageEvent<string>) =>
      add([JSON.parse(event.data) as TrafficItem]),
    )
    return () => {
      live = false
      source.close()
    }
  }, [])
  if (paused && held === null) setHeld(items)
  if (!paused && held !== null) setHeld(null)
  const shown = held ?? items
  return {
    items: shown,
    waiting: held ? items.filter((one) => !held.some((other) => other.id === one.id)).length : 0,
  }
}
