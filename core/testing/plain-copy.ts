/** A copy that depends on nothing and does not expire, for tests and measurements of stores. */
import { NOTHING } from '../caching/dependence.ts'
import type { Copy } from '../caching/store.ts'

export const plainCopy = (text: string, other: Partial<Copy> = {}): Copy => ({
  name: 'f',
  content: [text],
  dependence: NOTHING,
  aged: NOTHING,
  parts: new Map(),
  madeAt: 0,
  agesAt: Infinity,
  expiresAt: Infinity,
  staleUntil: Infinity,
  wrongAt: Infinity,
  ...other,
})
