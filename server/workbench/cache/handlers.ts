/** Handlers of the Cache area. */
import type { cacheOperations } from '../../../contract/cache.ts'
import { success } from '../../../core/shapes/outcome.ts'
import type { CopiesPort } from '../../reader/copies.ts'
import type { HandlersOf } from '../http/handlers-of.ts'

export const cacheHandlers = (copies: CopiesPort): HandlersOf<typeof cacheOperations> => ({
  'GET /api/copies': async () => {
    const all = await copies.copies()
    return success({
      copies: all.flatMap((one) => one.copies),
      bytes: all.reduce((sum, one) => sum + one.bytes, 0),
      processes: all.length,
    })
  },
  'DELETE /api/copies': async () =>
    success({ dropped: (await copies.clear()).reduce((sum, one) => sum + one, 0) }),
})
