/** Deletes posts, and offers to restore them. */
import { App } from 'antd'
import type { PostOutcomes } from '../../../../contract/posts.ts'
import { useWrite } from '../../../api/queries.ts'
import { useNotices } from '../../../shared/changes/notices.tsx'
import { useDeletionNotice } from '../parts/deleted.tsx'
import { words } from '../words.ts'

const text = words.posts

/** How long a warning is shown, in seconds. */
const SHOWN = 10

export interface PostRef {
  slug: string
  version: number
}

/** Returns a function that reports the posts that were not changed, each with its reason. */
export function useRefusals() {
  const { message } = App.useApp()
  return (results: PostOutcomes['results']): number => {
    const refused = results.filter((one) => !one.done)
    if (refused.length > 0)
      void message.warning(
        text.refused(
          refused.length,
          results.length,
          refused.map((one) => `“${one.slug}”: ${one.message ?? ''}`),
        ),
        SHOWN,
      )
    return refused.length
  }
}

/** Returns a function that deletes posts, and returns whether any was deleted. */
export function useDeletePosts() {
  const write = useWrite()
  const notices = useNotices()
  const noteDeletion = useDeletionNotice()
  const reportRefusals = useRefusals()
  return async (posts: readonly PostRef[]): Promise<boolean> => {
    try {
      const { results } = await write('POST /api/posts/delete', { body: { posts: [...posts] } })
      reportRefusals(results)
      const deleted = results.flatMap((one) => (one.deleted === null ? [] : [one.deleted]))
      if (deleted.length > 0) noteDeletion(text.deleted(deleted.length), deleted)
      return deleted.length > 0
    } catch (error) {
      notices.failed(error)
      return false
    }
  }
}
