/** The queries of an address, run once more without stored fragments. */
import type { WalkQuery, WalkRecord } from '../../contract/walk-record.ts'
import { answer } from '../reader/answer.ts'
import type { UncachedPort } from '../reader/ports.ts'
import type { ClockPort, SitePort } from '../publish/ports.ts'
import { internalRequest } from '../reader/request.ts'
import { Walk } from '../reader/walk/walk.ts'

/** Returns all queries of a page in order, including those that did not run. */
export async function walkedRuns(
  blog: ClockPort & SitePort & UncachedPort,
  target: string,
  as: WalkRecord['as'] = 'reader',
  accepts: WalkRecord['accepts'] = 'html',
): Promise<readonly WalkQuery[]> {
  const request = internalRequest(target, { as, accepts })
  const walk = new Walk(request, blog.clock(), blog.site.version)
  await answer(blog.withoutFragments(), request, walk)
  return walk.record.queries.runs
}
