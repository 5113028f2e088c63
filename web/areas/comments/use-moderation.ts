/** The actions of moderation: each is reported with a notice that undoes it. */
import { useCallback } from 'react'
import type { CommentCounts } from '../../../contract/comments.ts'
import type { DroppedCopy } from '../../../contract/fields.ts'
import { useWrite } from '../../api/queries.ts'
import { useNotices } from '../../shared/changes/notices.tsx'
import { words as shared } from '../../shared/words/words.ts'
import { words } from './words.ts'

export interface CommentRef {
  id: number
  version: number
}

export interface Moderation {
  /** @returns whether it was done */
  setState(comments: readonly CommentRef[], state: keyof CommentCounts): Promise<boolean>
  reply(comment: number, text: string): Promise<boolean>
  edit(comment: CommentRef, parts: { name: string; text: string }): Promise<boolean>
  erase(comment: number): Promise<boolean>
  /** Undoes the latest action of this screen. */
  undo(): Promise<void>
}

/** The latest step of this screen, which Ctrl Z undoes. */
let latest: string | null = null

export function useModeration(): Moderation {
  const write = useWrite()
  const notices = useNotices()
  const undoStep = useCallback(
    async (step: string) => {
      await write('POST /api/step/undo', { body: { id: step } })
      if (latest === step) latest = null
    },
    [write],
  )
  const attempt = async (
    work: () => Promise<{ step?: string | null; purged: readonly DroppedCopy[]; said: string }>,
  ): Promise<boolean> => {
    try {
      const { step = null, purged, said } = await work()
      latest = step
      notices.done(said, step === null ? undefined : () => undoStep(step), { purged })
      return true
    } catch (error) {
      notices.failed(error)
      return false
    }
  }
  return {
    setState: (comments, state) =>
      attempt(async () => ({
        ...(await write('POST /api/comments/moderate', {
          body: { comments: comments.map(({ id, version }) => ({ id, version })), state },
        })),
        said: words.done[state](comments.length),
      })),
    reply: (comment, text) =>
      attempt(async () => ({
        ...(await write('POST /api/comments/reply', { body: { comment, text } })),
        said: words.replied,
      })),
    edit: ({ id, version }, parts) =>
      attempt(async () => ({
        ...(await write('PUT /api/comment', { body: { id, version, ...parts } })),
        said: words.edited,
      })),
    erase: (comment) =>
      attempt(async () => {
        const { deleted, emptied, purged } = await write('POST /api/comments/erase', { body: { comment } })
        return { purged, said: words.erased(deleted, emptied) }
      }),
    undo: async () => {
      const step = latest
      if (step === null) return
      notices.withdraw()
      try {
        await undoStep(step)
        notices.done(shared.undone)
      } catch (error) {
        notices.failed(error)
      }
    },
  }
}
