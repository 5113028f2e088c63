/** Handlers of the Cache area. */
import pLimit from 'p-limit'
import type { cacheOperations, EdgeReport } from '../../../contract/cache.ts'
import { edgeLifetime } from '../../../core/caching/rules.ts'
import { success } from '../../../core/shapes/outcome.ts'
import type { CopyAudit } from '../../probes/copies/audit.ts'
import { rehearseCopies, type RehearseCopiesPorts } from '../../probes/copies/rehearse-copies.ts'
import { rulesOfCopies } from '../../probes/copies/rules-of-copies.ts'
import { FRAGMENT_BYTES } from '../../reader/blog.ts'
import type { CopiesPort, SharedSummary } from '../../reader/copies.ts'
import type { SitePort } from '../../publish/ports.ts'
import type { EdgeService } from '../../edge/edge.ts'
import type { EdgeCounts, EdgeStandIn } from '../../standins/edge/server.ts'
import type { HandlersOf } from '../http/handlers-of.ts'

/** What renders many pages runs one after the other, so that readers do not wait for several of them. */
const inTurn = pLimit(1)

const sum = (values: readonly number[]) => values.reduce((all, one) => all + one, 0)

const sharedOf = (all: readonly SharedSummary[]) =>
  all.length === 0
    ? null
    : {
        isAvailable: all.every((one) => one.isAvailable),
        taken: sum(all.map((one) => one.taken)),
        refused: sum(all.map((one) => one.refused)),
        missing: sum(all.map((one) => one.missing)),
        put: sum(all.map((one) => one.put)),
      }

/** The edge cache: its purger, and the built-in cache if it is used. */
export interface EdgeParts {
  service: Pick<EdgeService, 'state' | 'clear'>
  standIn: EdgeStandIn | undefined
}

function edgeReport({ site }: SitePort, { service, standIn }: EdgeParts): EdgeReport {
  const { state } = service
  return {
    lifetimeMilliseconds: edgeLifetime(site.definition.cache) || null,
    purger: state && {
      ...state,
      behindSince: state.behindSince?.toISOString() ?? null,
      lastAt: state.lastAt?.toISOString() ?? null,
      lastGroups: state.lastGroups && [...state.lastGroups],
    },
    standIn: standIn
      ? {
          origin: standIn.origin,
          ...countsShown(standIn.counts),
          bytes: standIn.bytes,
          ...copiesShown(standIn),
        }
      : null,
  }
}

const countsShown = ({ hits, revalidated, misses, passed }: EdgeCounts) => ({
  hits,
  revalidated,
  misses,
  passed,
})

/** The number of stored responses that are listed. */
const MOST_LISTED = 200

function copiesShown(standIn: EdgeStandIn) {
  const { copies, total } = standIn.copies(MOST_LISTED)
  return { total, copies: copies.map((one) => ({ ...one, groups: [...one.groups] })) }
}

export const cacheHandlers = (
  blog: RehearseCopiesPorts,
  copies: CopiesPort,
  audit: CopyAudit,
  edge: EdgeParts,
): HandlersOf<typeof cacheOperations> => ({
  'GET /api/copies': async () => {
    const all = await copies.copies()
    return success({
      copies: all.flatMap((one) => one.copies),
      bytes: sum(all.map((one) => one.bytes)),
      processes: all.length,
      shared: sharedOf(all.flatMap((one) => one.shared ?? [])),
    })
  },
  'DELETE /api/copies': async () => success({ dropped: sum(await copies.clear()) }),
  'GET /api/copy': async ({ query }) =>
    success({ text: (await copies.text(query.key)).find((one) => one !== null) ?? null }),
  'DELETE /api/copy': async ({ query }) =>
    success({ dropped: (await copies.drop(query.key)).filter((one) => one).length }),
  'GET /api/cache/rules': async () => {
    const [rules, counts, stored] = await Promise.all([
      inTurn(() => rulesOfCopies(blog)),
      copies.counts(),
      copies.copies(),
    ])
    return success({
      limitBytes: FRAGMENT_BYTES * stored.length,
      rules: rules.map((rule) => {
        const name = rule.kind === 'page' ? `page ${rule.name}` : rule.name
        const own = counts.flatMap((one) => one[name] ?? [])
        const kept = stored.flatMap((one) =>
          one.copies.filter((copy) => copy.kind === rule.kind && copy.name === rule.name),
        )
        const misses = sum(own.map((one) => one.misses))
        return {
          ...rule,
          copies: kept.length,
          bytes: sum(kept.map((one) => one.bytes)),
          hits: sum(own.map((one) => one.hits)),
          misses,
          bypasses: sum(own.map((one) => one.bypasses)),
          savedMilliseconds: misses === 0 ? null : sum(own.map((one) => one.rendering)) / misses,
        }
      }),
    })
  },
  'GET /api/cache/edge': () => success(edgeReport(blog, edge)),
  'DELETE /api/cache/edge': async () => success({ confirmed: await edge.service.clear() }),
  'POST /api/cache/rehearse': ({ body }) => inTurn(() => rehearseCopies(blog, body.change)),
  'GET /api/cache/audit': () => success(audit.report),
  'POST /api/cache/audit': () => success({ started: audit.start() }),
  'DELETE /api/cache/audit': async () => success({ cancelled: await audit.cancel() }),
})
