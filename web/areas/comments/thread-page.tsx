/** The page of the post as readers would see it with the comment, and what can be done with the comment. */
import { Button, Input } from 'antd'
import { useEffect, useRef, useState } from 'react'
import { Link } from 'react-router'
import type { CommentDetail } from '../../../contract/comments.ts'
import { useRead } from '../../api/queries.ts'
import { useSession } from '../../shared/frame/session.ts'
import { focusLater } from '../../shared/focus/focus.ts'
import { Plate } from '../../shared/marks/marks.tsx'
import { PageFrame } from '../../shared/page/page-frame.tsx'
import { words as shared } from '../../shared/words/words.ts'
import type { Moderation } from './use-moderation.ts'
import { words } from './words.ts'

/** The width at which the post is shown, in pixels. */
const WIDTH = 720

export type Work = 'reply' | 'edit' | null

interface Props {
  comment: CommentDetail
  moderation: Moderation
  /** False while another comment is loading. */
  isCurrent: boolean
  work: Work
  setWork(work: Work): void
  act(state: CommentDetail['state']): void
}

export function ThreadPage({ comment, moderation, isCurrent, work, setWork, act }: Props) {
  const { id, state, version } = comment
  const session = useSession()
  const page = useRead(
    'GET /api/comment/page',
    { query: { id: String(id) } },
    { placeholderData: (known) => known },
  )
  const { path, html, policy } = page.data ?? { path: null, html: '', policy: null }
  const actions = [
    { state: 'shown', label: words.show, key: '1' },
    { state: 'spam', label: words.spam, key: '2' },
    { state: 'deleted', label: words.delete, key: '3' },
    { state: 'waiting', label: words.wait, key: '4' },
  ] as const
  return (
    <section className="pane thread" aria-label={words.page}>
      <header>
        {path === null ? (
          <b>{comment.post.title}</b>
        ) : (
          <Link to={`/walk?path=${encodeURIComponent(path)}`}>
            <Plate pattern={path} />
          </Link>
        )}
        <span className="muted">
          {path === null
            ? words.noRoute
            : state === 'shown' && !comment.isHidden
              ? words.asShown
              : words.ifShown}
        </span>
      </header>
      {page.error ? (
        <p className="quiet">{page.error.message}</p>
      ) : path !== null && session.data ? (
        <PageFrame
          html={html}
          address={session.data.blog.replace(/\/$/, '') + path}
          policy={policy ?? ''}
          width={WIDTH}
          title={words.page}
          show={`comment-${id}`}
        />
      ) : (
        <div className="grow" />
      )}
      {work === 'reply' ? (
        <Reply key={id} comment={comment} moderation={moderation} close={() => setWork(null)} />
      ) : work === 'edit' ? (
        <Edit
          key={`${id} ${version}`}
          comment={comment}
          moderation={moderation}
          close={() => setWork(null)}
        />
      ) : (
        <footer className="actions">
          {actions.map((one) =>
            one.state === state || (one.state === 'waiting' && state === 'waiting') ? null : (
              <Button
                key={one.state}
                type={one.state === 'shown' ? 'primary' : 'default'}
                aria-keyshortcuts={one.key}
                disabled={!isCurrent}
                onClick={() => act(one.state)}
              >
                {one.label} <kbd>{one.key}</kbd>
              </Button>
            ),
          )}
          <Button aria-keyshortcuts="r" disabled={!isCurrent} onClick={() => setWork('reply')}>
            {words.reply} <kbd>R</kbd>
          </Button>
          <Button aria-keyshortcuts="e" disabled={!isCurrent} onClick={() => setWork('edit')}>
            {words.edit} <kbd>E</kbd>
          </Button>
        </footer>
      )}
    </section>
  )
}

interface WorkProps {
  comment: CommentDetail
  moderation: Moderation
  close(): void
}

/** Focuses the field in which one writes. */
function useFirstFocus() {
  const form = useRef<HTMLFormElement>(null)
  useEffect(() => {
    focusLater(() => form.current?.querySelector<HTMLElement>('textarea'))
  }, [])
  return form
}

function Reply({ comment, moderation, close }: WorkProps) {
  const [text, setText] = useState('')
  const [isSending, setSending] = useState(false)
  const form = useFirstFocus()
  const send = async () => {
    setSending(true)
    const isDone = await moderation.reply(comment.id, text)
    setSending(false)
    if (isDone) close()
  }
  return (
    <form
      ref={form}
      className="working"
      onSubmit={(event) => {
        event.preventDefault()
        void send()
      }}
      onKeyDown={(event) => event.key === 'Escape' && close()}
    >
      <label htmlFor="reply-text">{words.replyTo(comment.name, comment.post.author ?? words.byAuthor)}</label>
      <Input.TextArea
        id="reply-text"
        rows={4}
        maxLength={20_000}
        value={text}
        onChange={(event) => setText(event.target.value)}
        onKeyDown={(event) => (event.ctrlKey || event.metaKey) && event.key === 'Enter' && void send()}
      />
      <div>
        <Button type="primary" htmlType="submit" loading={isSending} disabled={text.trim() === ''}>
          {comment.state === 'shown' ? words.send : words.sendAndShow}
        </Button>
        <Button onClick={close}>{shared.cancel}</Button>
      </div>
    </form>
  )
}

function Edit({ comment, moderation, close }: WorkProps) {
  const [parts, setParts] = useState({ name: comment.name, text: comment.text })
  const [isSaving, setSaving] = useState(false)
  const form = useFirstFocus()
  const save = async () => {
    setSaving(true)
    const isDone = await moderation.edit(comment, parts)
    setSaving(false)
    if (isDone) close()
  }
  return (
    <form
      ref={form}
      className="working"
      onSubmit={(event) => {
        event.preventDefault()
        void save()
      }}
      onKeyDown={(event) => event.key === 'Escape' && close()}
    >
      <label htmlFor="edit-name">{words.name}</label>
      <Input
        id="edit-name"
        maxLength={200}
        value={parts.name}
        onChange={(event) => setParts({ ...parts, name: event.target.value })}
      />
      <label htmlFor="edit-text">{words.text}</label>
      <Input.TextArea
        id="edit-text"
        rows={5}
        maxLength={20_000}
        value={parts.text}
        onChange={(event) => setParts({ ...parts, text: event.target.value })}
        onKeyDown={(event) => (event.ctrlKey || event.metaKey) && event.key === 'Enter' && void save()}
      />
      <div>
        <Button
          type="primary"
          htmlType="submit"
          loading={isSaving}
          disabled={parts.name.trim() === '' || parts.text.trim() === ''}
        >
          {words.save}
        </Button>
        <Button onClick={close}>{shared.cancel}</Button>
      </div>
    </form>
  )
}
