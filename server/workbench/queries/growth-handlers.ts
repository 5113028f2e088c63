/** Handlers of the operations for measurements and indexes. */
import { addIndex } from '../../../core/blog/edit.ts'
import { isSameIndex, writeIndexKey } from '../../../core/queries/indexes.ts'
import { blocked, success, unknown, type Outcome } from '../../../core/shapes/outcome.ts'
import { DATA_PROBLEMS } from '../../../core/blog/problems.ts'
import type { DatabasePort, SitePort } from '../../publish/ports.ts'
import { DocumentEntity } from '../../store/entities/definition.ts'
import type { OwnIndexes } from '../../store/indexes/own-indexes.ts'
import { advisedIndex, storedResults } from '../../growth/stored.ts'
import type { GrowthJobs } from '../../growth/job.ts'
import type { Subject } from '../../growth/measure.ts'
import type { GrowthResult } from '../../../contract/growth-result.ts'
import type { GrowthReport, growthOperations } from '../../../contract/growth.ts'
import type { HandlersOf } from '../http/handlers-of.ts'
import { WORKBENCH_PROBLEMS } from '../problems.ts'

const FILE = 'indexes.yaml'

type Ports = DatabasePort & SitePort

export function growthHandlers(
  blog: Ports,
  growth: GrowthJobs,
  indexes: OwnIndexes,
): HandlersOf<typeof growthOperations> {
  return {
    'GET /api/growth': async ({ query }) => success(await report(blog, growth, query.query)),
    'POST /api/growth': async ({ body }) => {
      const subjects: Subject[] = []
      for (const name of body.queries) {
        const subject = subjectOf(blog, name)
        if (!subject.ok) return subject
        subjects.push(subject.value)
      }
      if (!growth.start(subjects, body.sizes))
        return blocked({ file: 'queries', ...WORKBENCH_PROBLEMS['growth-running']() })
      return success(await report(blog, growth))
    },
    'DELETE /api/growth': async () => {
      await growth.cancel()
      return success(await report(blog, growth))
    },
    'GET /api/indexes': () =>
      success(
        indexes.states.map(({ index: { name, on, keys }, ...state }) => ({
          name,
          on,
          keys: keys.map(writeIndexKey),
          ...state,
        })),
      ),
  }
}

function subjectOf({ site }: SitePort, name: string): Outcome<Subject> {
  const query = site.queries.get(name)
  return query
    ? success({ name, meaning: query.meaning, locale: site.definition, own: site.definition.indexes })
    : unknown({ file: 'queries', ...DATA_PROBLEMS['data-query-unknown'](name, '') })
}

async function report(blog: Ports, growth: GrowthJobs, query?: string): Promise<GrowthReport> {
  const results = await storedResults(blog, query)
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

/** Returns indexes.yaml with the advised index, if it does not have it yet. */
function acceptanceOf(
  { site }: SitePort,
  result: GrowthResult,
  document: { text: string; version: number } | null,
): { text: string; version: number } | null {
  const index = advisedIndex(result)
  if (!index || site.definition.indexes.some((one) => isSameIndex(one, index))) return null
  const text = addIndex(document?.text ?? '', { ...index, keys: index.keys.map(writeIndexKey) })
  return text === undefined ? null : { text, version: document?.version ?? 0 }
}
