/** Remembers what was computed of texts. A definition that is saved has the same texts as before, except for a few. */
import { LRUCache } from 'lru-cache'

/**
 * Returns a function that computes a value at most once for each text that was used recently. What throws is computed
 * again.
 * @param compute depends on its text only, and returns a value that nobody changes
 * @param most the length of all remembered texts, in characters
 */
export function remembering<T extends object, Rest extends unknown[]>(
  compute: (text: string, ...rest: Rest) => T,
  most: number,
): (text: string, ...rest: Rest) => T {
  const known = new LRUCache<string, T>({ maxSize: most, sizeCalculation: (_, text) => text.length + 1 })
  return (text, ...rest) => {
    const found = known.get(text)
    if (found) return found
    const computed = compute(text, ...rest)
    known.set(text, computed)
    return computed
  }
}
