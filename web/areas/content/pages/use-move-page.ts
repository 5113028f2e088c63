/** Moves a page in the tree, and offers to move it back. */
import { call } from '../../../api/client.ts'
import { useWrite } from '../../../api/queries.ts'
import { useNotices } from '../../../shared/changes/notices.tsx'
import type { Place } from '../parts/tree-moves.ts'
import { words } from '../words.ts'

const text = words.pages

export type MovePage = (path: string, to: Place & { slug?: string }) => Promise<string | undefined>

/**
 * Returns a function that moves a page and returns its new path, or undefined if it was not moved.
 * @param onMoved called with the path before and after
 */
export function useMovePage(onMoved: (from: string, to: string) => void): MovePage {
  const write = useWrite()
  const notices = useNotices()
  return async (path, to) => {
    try {
      const tree = await call('GET /api/pages', {})
      const own = tree.find((one) => one.path === path)
      if (!own) throw new Error(text.gone(path))
      const siblings = tree.filter((one) => one.parent === own.parent)
      const next = siblings[siblings.indexOf(own) + 1]?.path
      const moved = await write('POST /api/page/move', {
        query: { path },
        body: { version: own.version, ...to },
      })
      onMoved(path, moved.path)
      const undo = async () => {
        // If its next sibling has another path by now, it becomes the last one.
        const current = await call('GET /api/pages', {})
        const back = await write('POST /api/page/move', {
          query: { path: moved.path },
          body: {
            version: moved.version,
            parent: own.parent,
            before: current.find((one) => one.path === next)?.path ?? null,
            slug: own.slug,
          },
        })
        onMoved(moved.path, back.path)
      }
      const { former } = moved
      notices.done(
        former.length === 0 ? text.moved(own.title) : text.renamed(moved.path, former.length),
        undo,
      )
      return moved.path
    } catch (error) {
      notices.failed(error)
      return undefined
    }
  }
}
