/** Simulates in a thread of its own, so that the page goes on responding. */
import {
  lifetimesAround,
  simulate,
  sizesUpTo,
  type Curve,
  type WhatIf,
  type WhatIfResult,
} from '../../../../core/caching/what-if/simulate.ts'

export interface Simulated {
  result: WhatIfResult
  byLifetime: Curve[]
  bySize: Curve[]
}

/** The curves need less precision than the figures. */
const CURVE_REQUESTS = 15_000

const simulated = (what: WhatIf): Simulated => {
  const rough = { ...what, requests: CURVE_REQUESTS }
  return {
    result: simulate(what),
    byLifetime: lifetimesAround(what.lifetime).map((at) => ({
      at,
      result: simulate({ ...rough, lifetime: at }),
    })),
    bySize: sizesUpTo(what.shares.length).map((at) => ({ at, result: simulate({ ...rough, size: at }) })),
  }
}

self.onmessage = ({ data }: MessageEvent<{ id: number; settings: WhatIf[] }>) => {
  self.postMessage({ id: data.id, answers: data.settings.map(simulated) })
}
