/** The rules for copies, as they are in force, with what their copies show and what refreshes them. */
import { matrixRow, type Cell, type ChangeColumn, type Shown } from '../../../core/caching/matrix.ts'
import { fragmentRefresh, pageRule, stalest } from '../../../core/caching/rules.ts'
import type { Copy } from '../../../core/caching/store.ts'
import type { RefreshMode } from '../../../core/shapes/cache-rules.ts'
import type { ClockPort, DatabasePort, PoolPort, SitePort } from '../../publish/ports.ts'
import { reasonAgainst } from '../../reader/pages/page-copies.ts'
import { useOf } from '../../reader/pages/page-use.ts'
import type { ScratchPort } from '../../reader/ports.ts'
import { addressesOfPages, renderedNow } from './rendered-now.ts'

/** How many addresses of each route are looked at. All copies of a rule show the same things, unless they are empty. */
const OF_EACH = { newest: 3, oldest: 1, between: 2 }

export interface RuleOfCopies {
  kind: 'page' | 'fragment'
  name: string
  /** What the key consists of, beside the definition. */
  oneCopyFor: string[]
  refresh: RefreshMode
  /** In milliseconds. */
  lifetime: number
  staleWhileRevalidate: number
  staleIfError: number
  /** How long readers may see what was before a change, in milliseconds. */
  stalest: number
  document: string
  line: number | null
  /** Why none is kept; null if one is. */
  notKept: string | null
  /** What its copies show; null if none was rendered. */
  cells: Record<ChangeColumn, Cell> | null
}

export async function rulesOfCopies(
  blog: PoolPort & DatabasePort & SitePort & ClockPort & ScratchPort,
): Promise<RuleOfCopies[]> {
  const { site } = blog
  const { definition } = site
  const { addresses } = await addressesOfPages(blog, OF_EACH)
  const { store } = await renderedNow(blog, addresses)
  const copies = new Map<string, Copy[]>()
  for (const [, copy] of store.entries()) copies.set(copy.name, [...(copies.get(copy.name) ?? []), copy])
  const cellsOf = (name: string) => {
    const own = copies.get(name)
    return own ? matrixRow(own.map(shownBy), blog.clock()) : null
  }
  const pages = definition.routes.flatMap(({ route, pattern }): RuleOfCopies[] => {
    if (route.template === undefined) return []
    const rule = pageRule(definition.cache, route.name)
    return [
      {
        kind: 'page',
        name: route.name,
        oneCopyFor: [
          ...(pattern.names.length > 0 ? [pattern.text] : []),
          ...useOf(site, route).parameters.map((one) => `?${one}`),
        ],
        ...rule,
        stalest: stalest(rule),
        document: 'routes.yaml',
        line: definition.routePlaces.get(route.name)?.line ?? null,
        notKept: reasonAgainst(site, route),
        cells: cellsOf(`page ${route.name}`),
      },
    ]
  })
  const seen = new Set<string>()
  const fragments = definition.templates.fragments().flatMap((one): RuleOfCopies[] => {
    if (seen.has(one.name)) return []
    seen.add(one.name)
    const refresh = fragmentRefresh(definition.cache, one.name)
    return [
      {
        kind: 'fragment',
        name: one.name,
        oneCopyFor: one.reads,
        refresh,
        lifetime: one.lifetime,
        staleWhileRevalidate: 0,
        staleIfError: 0,
        stalest: refresh === 'by-age' ? one.lifetime : 0,
        document: `templates/${one.template}.liquid`,
        line: one.line,
        notKept: null,
        cells: cellsOf(one.name),
      },
    ]
  })
  return [...fragments, ...pages]
}

const shownBy = ({ dependence, aged, expiresAt, agesAt }: Copy): Shown => ({
  dependence,
  aged,
  changesWithTime: expiresAt < agesAt,
})
