/** Compares keys in a time that does not depend on where they differ. */
import { createHash, timingSafeEqual } from 'node:crypto'

export const isSameText = (one: string, other: string): boolean =>
  timingSafeEqual(createHash('sha256').update(one).digest(), createHash('sha256').update(other).digest())
