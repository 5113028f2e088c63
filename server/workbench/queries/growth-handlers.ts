/** What the operations of measuring do. */
import { addIndex } from '../../../core/blog/edit.ts'
import { isSameIndex, writeIndexKey } from '../../../core/queries/indexes.ts'
import type { Blog } from '../../reader/blog.ts'
import { DocumentEntity } from '../../store/entities/definition.ts'
import type { OwnIndexes } from '../../store/indexes/own-indexes.ts'
import { advisedIndex, keptResults } from '../../growth/kept.ts'
import type { GrowthJobs } from '../../growth/job.ts'
import type { Subject } from '../../growth/measure.ts'
import type { GrowthResult } from '../../../contract/growth-result.ts'
import type { GrowthReport, growthOperations } from '../../../contract/growth.ts'
import type { HandlersOf } from '../http/handlers-of.ts'
import { Refusal } from '../http/refusal.ts'

const FILE = 'indexes.yaml'

export function growthHandlers(
  blog: Blog,
  growth: GrowthJobs,
  indexes: OwnIndexes,
): HandlersOf<typeof growthOperations> {
  return {
    'GET /api/growth': ({ query }) => report(blog, growth, query.query),
    'POST /api/growth': async ({ body }) => {
      const subjects = body.queries.map((name) => subjectOf(blog, name))
      if (!growth.start(subjects, body.sizes))
        throw new Refusal({
          status: 409,
          title: 'Another measurement is running',
          detail: 'Wait for it, or stop it.',
        })
      return await report(blog, growth)
    },
    'DELETE /api/growth': async () => {
      await growth.cancel()
      return await report(blog, growth)
    },
    'GET /api/indexes': () =>
      indexes.states.map(({ index: { name, on, keys }, ...state }) => ({
        name,
        on,
        keys: keys.map(writeIndexKey),
        ...state,
      })),
  }
}

function subjectOf({ site }: Blog, name: string): Subject {
  const query = site.queries.get(name)
  if (!query) throw new Refusal({ status: 404, title: `There is no query “${name}”` })
  return { name, meaning: query.meaning, locale: site.definition, own: site.definition.indexes }
}

async function report(blog: Blog, growth: GrowthJobs, query?: string): Promise<GrowthReport> {
  const results = await keptResults(blog, query)
  const document = await blog.database.getRepository(DocumentEntity).findOneBy({ path: FILE })
  const { progress, failure } = growth
  return {
    running: progress && { ...progress, startedAt: progress.startedAt.toISOString() },
    failure: failure && { ...failure },
    results: results.map(({ id, at, isCurrent, result }) => ({
      id,
      at: at.toISOString(),
      isCurrent,
      result,
      acceptance: isCurrent ? acceptanceOf(blog, result, document) : null,
    })),
  }
}

function acceptanceOf(
  { site }: Blog,
  result: GrowthResult,
  document: { text: string; version: number } | null,
): { text: string; version: number } | null {
  const index = advisedIndex(result)
  if (!index || site.definition.indexes.some((one) => isSameIndex(one, index))) return null
  const text = addIndex(document?.text ?? '', { ...index, keys: index.keys.map(writeIndexKey) })
  return text === undefined ? null : { text, version: document?.version ?? 0 }
}
