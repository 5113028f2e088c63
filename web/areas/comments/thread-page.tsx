/** The page of the post as readers would see it with the comment, and what can be done with the comment. */
import { Button, Input } from 'antd'
import { useEffect, useRef, useState, type ReactNode } from 'react'
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
  const { id, state } = comment
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
          {page.data === undefined
            ? shared.loading
            : path === null
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
        <Edit key={id} comment={comment} moderation={moderation} close={() => setWork(null)} />
      ) : (
        <footer className="actions">
          {actions.map((one) =>
            one.state === state ? null : (
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

function Reply({ comment, moderation, close }: WorkProps) {
  const [text, setText] = useState('')
  return (
    <WorkForm
      label={comment.state === 'shown' ? words.send : words.sendAndShow}
      isReady={text.trim() !== ''}
      work={() => moderation.reply(comment.id, text)}
      close={close}
    >
      <label htmlFor="work-text">{words.replyTo(comment.name, comment.post.author ?? words.byAuthor)}</label>
      <Input.TextArea
        id="work-text"
        rows={4}
        maxLength={LONGEST_TEXT}
        value={text}
        onChange={(event) => setText(event.target.value)}
      />
    </WorkForm>
  )
}

function Edit({ comment, moderation, close }: WorkProps) {
  const [parts, setParts] = useState({ name: comment.name, text: comment.text })
  // What somebody else changes in the meantime is a conflict, and what is typed here stays.
  const [version] = useState(comment.version)
  return (
    <WorkForm
      label={words.save}
      isReady={parts.name.trim() !== '' && parts.text.trim() !== ''}
      work={() => moderation.edit({ id: comment.id, version }, parts)}
      close={close}
    >
      <label htmlFor="work-name">{words.name}</label>
      <Input
        id="work-name"
        maxLength={LONGEST_NAME}
        value={parts.name}
        onChange={(event) => setParts({ ...parts, name: event.target.value })}
      />
      <label htmlFor="work-text">{words.text}</label>
      <Input.TextArea
        id="work-text"
        rows={5}
        maxLength={LONGEST_TEXT}
        value={parts.text}
        onChange={(event) => setParts({ ...parts, text: event.target.value })}
      />
    </WorkForm>
  )
}

/** As long as the API allows, in characters. */
const LONGEST_NAME = 200
const LONGEST_TEXT = 20_000

interface WorkFormProps {
  /** Of the button that does the work. */
  label: string
  isReady: boolean
  /** @returns whether it was done */
  work(): Promise<boolean>
  close(): void
  children: ReactNode
}

/** A form below the page. Ctrl Enter sends it, Escape closes it. */
function WorkForm({ label, isReady, work, close, children }: WorkFormProps) {
  const form = useRef<HTMLFormElement>(null)
  const [isWorking, setWorking] = useState(false)
  useEffect(() => {
    focusLater(() => form.current?.querySelector<HTMLElement>('textarea'))
  }, [])
  const send = async () => {
    if (!isReady || isWorking) return
    setWorking(true)
    const isDone = await work()
    setWorking(false)
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
      onKeyDown={(event) => {
        if (event.key === 'Escape') close()
        if ((event.ctrlKey || event.metaKey) && event.key === 'Enter') void send()
      }}
    >
      {children}
      <div>
        <Button type="primary" htmlType="submit" loading={isWorking} disabled={!isReady}>
          {label}
        </Button>
        <Button onClick={close}>{shared.cancel}</Button>
      </div>
    </form>
  )
}
