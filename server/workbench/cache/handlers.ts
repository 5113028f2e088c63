/** Handlers of the Cache area. */
import type { cacheOperations } from '../../../contract/cache.ts'
import { describeDependence } from '../../../core/caching/session.ts'
import { lengthOf } from '../../../core/caching/store.ts'
import { success } from '../../../core/shapes/outcome.ts'
import type { ClockPort } from '../../publish/ports.ts'
import type { FragmentPort } from '../../reader/page-data.ts'
import type { HandlersOf } from '../http/handlers-of.ts'

export const cacheHandlers = (blog: FragmentPort & ClockPort): HandlersOf<typeof cacheOperations> => ({
  'GET /api/copies': () => {
    const now = blog.clock().getTime()
    const copies = [...blog.fragments.entries()].map(([key, copy]) => ({
      kind: copy.answer ? ('page' as const) : ('fragment' as const),
      key,
      // A page is named by its route.
      name: copy.answer ? copy.name.replace(/^page /, '') : copy.name,
      bytes: lengthOf(copy),
      ageMilliseconds: now - copy.madeAt,
      remainingMilliseconds: copy.expiresAt - now,
      dependsOn: describeDependence(copy.dependence),
    }))
    return success({ copies, bytes: blog.fragments.bytes })
  },
  'DELETE /api/copies': () =>
    success({ dropped: blog.fragments.clear('an author cleared all copies').length }),
})
