/** Renderings in progress, by store and key, so that concurrent requests wait for the first one. */
import type { FragmentStore } from '../../../core/caching/store.ts'

const ofStores = new WeakMap<FragmentStore, Map<string, Promise<void>>>()

/** Resolves when the rendering in progress ends; undefined if there is none. */
export const renderingOf = (store: FragmentStore, key: string): Promise<void> | undefined =>
  ofStores.get(store)?.get(key)

/** Registers a rendering. @returns a function to call when it ends */
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
