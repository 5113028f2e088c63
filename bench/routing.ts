/** 200 routes: the time to match one, compared with a single regular expression, and the time to analyse all. */
import { DEFAULT_POLICY } from '../core/routing/addresses/address.ts'
import { analyseRoutes, type AnalysedRoute } from '../core/routing/analysis/analysis.ts'
import { matchRoute } from '../core/routing/addresses/match.ts'
import { compileRoute } from '../core/routing/addresses/compiled-route.ts'
import { RouteTable } from '../core/routing/addresses/table.ts'
import type { ParameterType } from '../core/shapes/schemas.ts'

const FORMS = [
  '/s#',
  '/s#/:slug',
  '/s#/:slug/comments',
  '/s#/:year/:month',
  '/s#/archive',
  '/:lang/s#',
  '/:page/x#',
  '/s#/:year-:month/edit',
]
const TYPES: Readonly<Record<string, ParameterType>> = {
  slug: 'slug',
  year: 'year',
  month: 'month',
  lang: 'slug',
}
const ADDRESSES = [
  '/s3/hello-world',
  '/s24/2026/11',
  '/about/people/x',
  '/en/s12',
  '/s0',
  '/s7/archive',
  '/nothing/at/all',
]
const ROUTES = 200
const TURNS = 7
const MATCHES = 100_000

function routes(): AnalysedRoute[] {
  const paths = Array.from({ length: ROUTES - 1 }, (_, index) =>
    (FORMS[index % FORMS.length] ?? '').replace('#', String(Math.floor(index / FORMS.length))),
  )
  return [...paths, '/:rest'].map((path) => {
    const names = [...path.matchAll(/:(\w+)/g)].map((found) => found[1] ?? '')
    const params = Object.fromEntries(
      names.flatMap((name) => {
        const type = name === 'rest' ? 'path' : TYPES[name]
        return type === undefined ? [] : [[name, type] as const]
      }),
    )
    const result = compileRoute({ name: path, path, params, template: 'pages/any' })
    if (!result.ok) throw new Error(`${path}: ${result.error.reason}`)
    return { compiled: result.compiled, passesOn: false }
  })
}

export interface RoutingFigures {
  /** Microseconds a match, medians. */
  match: number
  reference: number
  /** Milliseconds. */
  analysis: number
  overlaps: number
}

export function routingFigures(): RoutingFigures {
  const all = routes()
  const table = new RouteTable(all.map((one) => one.compiled))
  const sources = all.map((one) =>
    one.compiled.pattern.regexp.source.slice(1, -1).replace(/\((?!\?)/g, '(?:'),
  )
  const reference = new RegExp(`^(?:${sources.map((one) => `(?:${one})`).join('|')})$`, 'v')
  const ways = [(path: string) => matchRoute(table, 'GET', path), (path: string) => reference.exec(path)]
  const times: [number[], number[]] = [[], []]
  for (let turn = 0; turn < TURNS; turn++) {
    for (const [index, way] of ways.entries()) {
      const began = performance.now()
      for (let count = 0; count < MATCHES; count++) way(ADDRESSES[count % ADDRESSES.length] ?? '/')
      times[index === 0 ? 0 : 1].push(((performance.now() - began) / MATCHES) * 1000)
    }
  }
  const median = (values: readonly number[]) => [...values].sort((a, b) => a - b)[TURNS >> 1] ?? 0
  const began = performance.now()
  const { overlaps } = analyseRoutes(all, DEFAULT_POLICY)
  return {
    match: median(times[0]),
    reference: median(times[1]),
    analysis: performance.now() - began,
    overlaps: overlaps.length,
  }
}
