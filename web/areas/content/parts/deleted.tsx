/** What was deleted and can come back: the list, and the undo right after. */
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { App, Button, Modal } from 'antd'
import type { AnswerOf, QueryOf } from '../../../../contract/operations.ts'
import { call } from '../../../api/client.ts'
import { whyRefused } from '../../../shared/words/why-refused.ts'
import { useUndoNotice } from '../../../shared/changes/undo-notice.tsx'
import { refreshContent } from './refresh.ts'
import { fromNow } from './wall-time.ts'

type Kind = QueryOf<'GET /api/deleted'>['kind']
export type Restored = AnswerOf<'POST /api/deleted/restore'>

const WORDS: Readonly<Record<Kind, { many: string; kept: string }>> = {
  post: { many: 'posts', kept: 'with its comments' },
  page: { many: 'pages', kept: 'with the pages below it' },
  category: { many: 'categories', kept: 'with the posts that had it' },
  tag: { many: 'tags', kept: 'with the posts that had it' },
  author: { many: 'authors', kept: 'with the posts that had it' },
  image: { many: 'images', kept: 'with the posts whose picture it was' },
}

/** As many as the API gives. */
const SHOWN = 200

export function Deleted({ kind, close }: { kind: Kind; close(): void }) {
  const list = useQuery({
    queryKey: ['deleted', kind],
    queryFn: () => call('GET /api/deleted', { query: { kind } }),
    staleTime: 0,
  })
  const restore = useRestore()
  const { message } = App.useApp()
  const putBack = (id: number) =>
    restore([id]).then(
      () => void message.success('As it was'),
      (error: unknown) => void message.error(whyRefused(error), 8),
    )
  const { many, kept } = WORDS[kind]
  return (
    <Modal open onCancel={close} footer={<Button onClick={close}>Close</Button>} title={`Deleted ${many}`}>
      {list.error ? (
        <p className="quiet small">{list.error.message}</p>
      ) : list.data?.length === 0 ? (
        <p className="quiet small">None. What is deleted stays here for 30 days, {kept}.</p>
      ) : (
        <ul className="imported">
          {(list.data ?? []).length === SHOWN ? (
            <li className="muted">The {SHOWN} deleted last; older ones come up as these are put back.</li>
          ) : null}
          {(list.data ?? []).map((one) => (
            <li key={one.id}>
              <span>
                <b>{one.title}</b> <span className="muted">{fromNow(one.deletedAt, new Date())}</span>
              </span>
              <Button size="small" onClick={() => void putBack(one.id)}>
                Put it back
              </Button>
            </li>
          ))}
        </ul>
      )}
    </Modal>
  )
}

/** Puts rows back. @returns what came back */
function useRestore() {
  const client = useQueryClient()
  return async (deleted: readonly number[]): Promise<Restored[]> => {
    const back: Restored[] = []
    try {
      for (const one of deleted)
        back.push(await call('POST /api/deleted/restore', { body: { deleted: one } }))
    } finally {
      await refreshContent(client)
    }
    return back
  }
}

/** Says what was deleted, and offers to put it back. */
export function useDeletionNotice() {
  const tell = useUndoNotice()
  const restore = useRestore()
  return (title: string, deleted: readonly number[], restored?: (back: readonly Restored[]) => void) =>
    tell(title, async () => {
      const back = await restore(deleted)
      restored?.(back)
    })
}
