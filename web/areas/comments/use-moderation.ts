/** The actions of moderation: each is reported with a notice that undoes it. */
import { create } from 'zustand'
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
  /** Undoes the latest action. */
  undo(): Promise<void>
}

/** The step that Ctrl Z undoes: of the latest action, also after another area was open. */
const useLatest = create<{ step: string | null; note(step: string | null): void }>((set) => ({
  step: null,
  note: (step) => set({ step }),
}))

interface Done {
  step?: string | null
  purged: readonly DroppedCopy[]
}

export function useModeration(): Moderation {
  const write = useWrite()
  const notices = useNotices()
  const { step: latest, note } = useLatest()
  const undoStep = async (step: string) => {
    await write('POST /api/step/undo', { body: { id: step } })
    note(null)
  }
  const attempt = async <T extends Done>(work: Promise<T>, said: (done: T) => string): Promise<boolean> => {
    try {
      const done = await work
      const { step = null, purged } = done
      note(step)
      notices.done(said(done), step === null ? undefined : () => undoStep(step), { purged })
      return true
    } catch (error) {
      notices.failed(error)
      return false
    }
  }
  return {
    setState: (comments, state) =>
      attempt(
        write('POST /api/comments/moderate', {
          body: { comments: comments.map(({ id, version }) => ({ id, version })), state },
        }),
        () => words.done[state](comments.length),
      ),
    reply: (comment, text) =>
      attempt(write('POST /api/comments/reply', { body: { comment, text } }), () => words.replied),
    edit: ({ id, version }, parts) =>
      attempt(write('PUT /api/comment', { body: { id, version, ...parts } }), () => words.edited),
    erase: (comment) =>
      attempt(write('POST /api/comments/erase', { body: { comment } }), ({ deleted, emptied }) =>
        words.erased(deleted, emptied),
      ),
    undo: async () => {
      if (latest === null) return
      notices.withdraw()
      try {
        await undoStep(latest)
        notices.done(shared.undone)
      } catch (error) {
        notices.failed(error)
      }
    },
  }
}
