/** What can be set for a simulation, and what is simulated with it. */
import { zipfShares } from '../../../../core/caching/what-if/closed-forms.ts'
import type { WhatIf } from '../../../../core/caching/what-if/simulate.ts'
import type { RefreshMode } from '../../../../core/shapes/cache-rules.ts'
import type { TrafficItem } from '../../../../contract/walk.ts'

/** Of both settings: what readers and authors do. */
export interface Traffic {
  source: 'zipf' | 'recent'
  pages: number
  exponent: number
  /** Requests per minute. */
  perMinute: number
  editsPerHour: number
  commentsPerHour: number
}

/** Of one setting. */
export interface Setting {
  refresh: RefreshMode
  /** In seconds. */
  lifetime: number
  /** The share of the pages that the cache can hold, in per cent. */
  sizePercent: number
}

/** How many requests are played: the figures then vary by about one in a hundred. */
const REQUESTS = 60_000
const SEED = 20_261_128

export interface RecentTraffic {
  shares: number[]
  perMinute: number
}

/** Returns how the latest requests for pages are distributed. Only their numbers are used. */
export function recentTraffic(items: readonly TrafficItem[]): RecentTraffic | undefined {
  const pages = items.filter((one) => one.method === 'GET' && one.status === 200)
  if (pages.length < 2) return undefined
  const counts = new Map<string, number>()
  for (const { target } of pages) counts.set(target, (counts.get(target) ?? 0) + 1)
  const times = pages.map((one) => Date.parse(one.at))
  const minutes = (Math.max(...times) - Math.min(...times)) / 60_000
  return {
    shares: [...counts.values()].sort((a, b) => b - a).map((one) => one / pages.length),
    perMinute: minutes > 0 ? pages.length / minutes : pages.length,
  }
}

/** @param measured the size of a page's copy, and what rendering it takes */
export function whatIf(
  traffic: Traffic,
  { refresh, lifetime, sizePercent }: Setting,
  recent: RecentTraffic | undefined,
  measured: { copyBytes: number; renderMilliseconds: number },
): WhatIf {
  const isRecent = traffic.source === 'recent' && recent !== undefined
  const shares = isRecent ? recent.shares : zipfShares(traffic.pages, traffic.exponent)
  return {
    shares,
    rate: (isRecent ? recent.perMinute : traffic.perMinute) / 60,
    editsPerHour: traffic.editsPerHour,
    commentsPerHour: traffic.commentsPerHour,
    refresh,
    lifetime,
    size: Math.max(1, Math.round((shares.length * sizePercent) / 100)),
    ...measured,
    requests: REQUESTS,
    seed: SEED,
  }
}
