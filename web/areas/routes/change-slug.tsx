/** Changes the slug of a post or a term, or the path of a page. The slug is checked while it is typed. */
import { Button, Input } from 'antd'
import { useDeferredValue, useState } from 'react'
import type { SlugKind } from '../../../core/shapes/content-kinds.ts'
import { useRead, useWrite } from '../../api/queries.ts'
import { useNotices } from '../../shared/changes/notices.tsx'
import { words as shared } from '../../shared/words/words.ts'
import { words } from './words.ts'

const text = words.slug

interface Props {
  kind: SlugKind
  /** The current slug, or the current path of a page. */
  current: string
  done(): void
}

export function ChangeSlug({ kind, current, done }: Props) {
  const write = useWrite()
  const notices = useNotices()
  const [typed, setTyped] = useState(current)
  const wanted = useDeferredValue(typed)
  const checked = useRead(
    'GET /api/slug',
    { query: { kind, text: kind === 'page' ? (wanted.split('/').at(-1) ?? '') : wanted, own: current } },
    { enabled: wanted !== current, placeholderData: (known) => known },
  )
  const save = async () => {
    try {
      const changed = await write('PUT /api/slug', { body: { kind, from: current, to: typed } })
      const undo = async () => {
        await write('PUT /api/slug', { body: { kind, from: changed.current, to: current } })
      }
      notices.done(text.done(changed.address ?? changed.current, changed.former.length), undo)
      done()
    } catch (error) {
      notices.failed(error)
    }
  }
  const answer = checked.data
  const isChanged = typed !== current
  return (
    <form
      className="change-slug"
      onSubmit={(event) => {
        event.preventDefault()
        void save()
      }}
    >
      <Input
        autoFocus
        size="small"
        className="mono"
        aria-label={kind === 'page' ? text.newPath : text.newSlug}
        value={typed}
        status={isChanged && answer && !answer.free ? 'error' : ''}
        onChange={(event) => setTyped(event.target.value)}
        onKeyDown={(event) => event.key === 'Escape' && done()}
      />
      <Button size="small" htmlType="submit" type="primary" disabled={!isChanged || answer?.free === false}>
        {text.save}
      </Button>
      <Button size="small" onClick={() => done()}>
        {shared.cancel}
      </Button>
      <p className={answer && !answer.free ? 'failed' : 'muted'} role="status">
        {!isChanged ? text.note : answer ? (answer.note ?? text.free(answer.address ?? typed)) : ''}
        {answer && !answer.free && answer.suggestion !== '' ? (
          <>
            {' '}
            <button
              type="button"
              className="link"
              onClick={() =>
                setTyped(
                  current.includes('/')
                    ? `${current.slice(0, current.lastIndexOf('/') + 1)}${answer.suggestion}`
                    : answer.suggestion,
                )
              }
            >
              {text.use(answer.suggestion)}
            </button>
          </>
        ) : null}
      </p>
    </form>
  )
}
