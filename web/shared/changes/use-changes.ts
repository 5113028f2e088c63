/** Applies changes of several documents, slugs or terms together, and offers to undo them. */
import type { ChangeStep } from '../../../core/shapes/changes.ts'
import { ApiProblem, call } from '../../api/client.ts'
import { useWrite } from '../../api/queries.ts'
import { words } from '../words/words.ts'
import { useInsist } from './insist.tsx'
import { useNotices } from './notices.tsx'

export interface Changes {
  /**
   * Applies changes, all or none.
   * @param done what has changed, as a sentence
   * @returns whether they were applied
   */
  apply(steps: readonly ChangeStep[], done: string): Promise<boolean>
  /**
   * Changes a document's stored text.
   * @param change returns the new text; undefined if it cannot be changed
   * @returns whether it was changed
   */
  edit(document: string, change: (text: string) => string | undefined, done: string): Promise<boolean>
}

export function useChanges(): Changes {
  const write = useWrite()
  const notices = useNotices()
  const insist = useInsist()
  const undo = async (steps: ChangeStep[]) => {
    try {
      return (await insist((more) => write('POST /api/changes', { body: { steps, ...more } }))) !== undefined
    } catch (error) {
      if (!(error instanceof ApiProblem && error.isConflict)) throw error
      throw new Error(words.undoConflict, { cause: error })
    }
  }
  const changes: Changes = {
    async edit(document, change, done) {
      try {
        const stored = await call('GET /api/document', { query: { path: document } })
        const text = change(stored.text)
        if (text === undefined) throw new Error(words.changes.notEditable(document))
        if (text === stored.text) return false
        return await changes.apply([{ do: 'save-document', document, text, version: stored.version }], done)
      } catch (error) {
        notices.failed(error)
        return false
      }
    },
    async apply(steps, done) {
      try {
        const applied = await insist((more) =>
          write('POST /api/changes', { body: { steps: [...steps], ...more } }),
        )
        if (!applied) return false
        const [address] = applied.addresses
        notices.done(
          address === undefined ? done : `${done} ${address}`,
          applied.undo.length > 0 ? () => undo(applied.undo) : undefined,
          { purged: applied.purged },
        )
        return true
      } catch (error) {
        notices.failed(error)
        return false
      }
    },
  }
  return changes
}
