/** Deleted content that can be restored: the list, and the undo after a deletion. */
import { Button, Modal } from 'antd'
import type { AnswerOf, QueryOf } from '../../../../contract/operations.ts'
import { useRead, useWrite } from '../../../api/queries.ts'
import { useNotices } from '../../../shared/changes/notices.tsx'
import { words as shared } from '../../../shared/words/words.ts'
import { words } from '../words.ts'
import { fromNow } from './wall-time.ts'

const text = words.deleted

type Kind = QueryOf<'GET /api/deleted'>['kind']
export type Restored = AnswerOf<'POST /api/deleted/restore'>

/** How many the API lists. */
const LIMIT = 200

export function Deleted({ kind, close }: { kind: Kind; close(): void }) {
  const list = useRead('GET /api/deleted', { query: { kind } }, { staleTime: 0 })
  const write = useWrite()
  const notices = useNotices()
  const restore = (deleted: number, title: string) =>
    write('POST /api/deleted/restore', { body: { deleted } }).then(
      () => notices.done(text.restored(title)),
      notices.failed,
    )
  const [many, kept] = text.kinds[kind]
  const items = list.data ?? []
  return (
    <Modal
      open
      rootClassName="content-popup"
      onCancel={close}
      footer={<Button onClick={close}>{shared.close}</Button>}
      title={text.title(many)}
    >
      {list.error ? (
        <p className="quiet small">{list.error.message}</p>
      ) : list.data?.length === 0 ? (
        <p className="quiet small">{text.empty(many, kept)}</p>
      ) : (
        <ul className="imported">
          {items.length === LIMIT ? <li className="muted">{text.limit(LIMIT)}</li> : null}
          {items.map((one) => (
            <li key={one.id}>
              <span>
                <b>{one.title}</b> <span className="muted">{fromNow(one.deletedAt, new Date())}</span>
              </span>
              <Button size="small" onClick={() => void restore(one.id, one.title)}>
                {text.restore}
              </Button>
            </li>
          ))}
        </ul>
      )}
    </Modal>
  )
}

/** Returns a function that reports a deletion and offers to undo it: all rows are restored, or none. */
export function useDeletionNotice() {
  const notices = useNotices()
  const write = useWrite()
  return (title: string, deleted: readonly number[], onRestored?: (restored: Restored) => void) =>
    notices.done(title, async () => {
      const [first, ...more] = deleted
      if (first !== undefined && more.length === 0) {
        const restored = await write('POST /api/deleted/restore', { body: { deleted: first } })
        onRestored?.(restored)
      } else
        await write('POST /api/changes', {
          body: { steps: deleted.map((one) => ({ do: 'restore' as const, deleted: one })) },
        })
    })
}
