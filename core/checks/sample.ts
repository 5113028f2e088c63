/** Chooses samples: what is newest, oldest, and some between. */

import { groupBy } from './group-by.ts'

/** How many are chosen. */
export interface SampleSize {
  oldest: number
  newest: number
  between: number
}

/** Returns a sample of a list that starts with the oldest, in its order. */
export function sampleOf<T>(all: readonly T[], { oldest, newest, between }: SampleSize): T[] {
  if (all.length <= oldest + newest + between) return [...all]
  const middle = all.slice(oldest, -newest)
  return [
    ...all.slice(0, oldest),
    ...Array.from({ length: between }, (_, at) => middle[Math.floor((at * middle.length) / between)] as T),
    ...all.slice(-newest),
  ]
}

/** The addresses of each route that are requested. */
const OF_ROUTE: SampleSize = { oldest: 3, newest: 20, between: 17 }

/** How addresses are chosen, as a phrase. */
export const CHOSEN_ADDRESSES = 'of each route the newest, the oldest, and some between'

/** Returns a sample of the addresses of each route. They are in order of their rows. */
export function sampleAddresses<T extends { route: string }>(known: readonly T[]): T[] {
  return [...groupBy(known, (one) => one.route).values()].flatMap((own) => sampleOf(own, OF_ROUTE))
}
