/** The copies of a store that are being made, so that requests at the same time wait for the first one. */
import type { FragmentStore } from '../../../core/caching/store.ts'

const ofStores = new WeakMap<FragmentStore, Map<string, Promise<void>>>()

/** Returns when the rendering ends that makes a copy now; undefined if there is none. */
export const renderingOf = (store: FragmentStore, key: string): Promise<void> | undefined =>
  ofStores.get(store)?.get(key)

/** Notes that a copy is being made. @returns a function that says when it was */
export function beginRendering(store: FragmentStore, key: string): () => void {
  let all = ofStores.get(store)
  if (!all) ofStores.set(store, (all = new Map()))
  const ofStore = all
  let finish: () => void = () => undefined
  const rendering = new Promise<void>((done) => (finish = done))
  ofStore.set(key, rendering)
  return () => {
    if (ofStore.get(key) === rendering) ofStore.delete(key)
    finish()
  }
}
