/** Deletes posts, and offers to restore them. */
import { useWrite } from '../../../api/queries.ts'
import { useNotices } from '../../../shared/changes/notices.tsx'
import { useDeletionNotice } from '../parts/deleted.tsx'
import { words } from '../words.ts'

const text = words.posts

export interface PostRef {
  slug: string
  version: number
}

/** Returns a function that deletes posts, and returns whether they were deleted. */
export function useDeletePosts() {
  const write = useWrite()
  const notices = useNotices()
  const noteDeletion = useDeletionNotice()
  return async (posts: readonly PostRef[]): Promise<boolean> => {
    try {
      const { results } = await write('POST /api/posts/delete', { body: { posts: [...posts] } })
      const deleted = results.flatMap((one) => (one.deleted === null ? [] : [one.deleted]))
      noteDeletion(text.deleted(deleted.length), deleted)
      return true
    } catch (error) {
      notices.failed(error)
      return false
    }
  }
}
