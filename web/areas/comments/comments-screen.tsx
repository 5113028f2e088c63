/** The Comments area: the queue on the left, the thread in the middle, the reasons on the right. */
import { useEffect, useRef, useState } from 'react'
import { useSearchParams } from 'react-router'
import type { CommentItem } from '../../../contract/comments.ts'
import { useRead } from '../../api/queries.ts'
import { CommentQueue, STATES, type Filter, type State } from './comment-queue.tsx'
import { CommentReasons } from './comment-reasons.tsx'
import { MailScreen } from './mail/mail-screen.tsx'
import { RulesForm } from './rules-form.tsx'
import { ThreadPage, type Work } from './thread-page.tsx'
import { useModeration } from './use-moderation.ts'
import { words } from './words.ts'
import './comments.css'

/** The state that each digit sets. */
const DIGITS: Readonly<Record<string, State>> = { 1: 'shown', 2: 'spam', 3: 'deleted', 4: 'waiting' }
const NONE: readonly CommentItem[] = []
/** How many comments are shown at first, by how many more, and at most. */
const FIRST = 50
const MOST = 1_000

const isTyping = (target: EventTarget | null) =>
  target instanceof HTMLElement &&
  (target.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName)) &&
  !(target instanceof HTMLInputElement && target.type === 'checkbox')

export function CommentsScreen() {
  const [parameters, setParameters] = useSearchParams()
  const wanted = (name: string) => parameters.get(name) ?? undefined
  const change = (changes: Readonly<Record<string, string | null>>) =>
    setParameters((known) => {
      const next = new URLSearchParams(known)
      for (const [name, value] of Object.entries(changes))
        if (value === null) next.delete(name)
        else next.set(name, value)
      return next
    })
  if (wanted('state') === 'rules') return <RulesForm close={() => change({ state: null })} />
  if (wanted('state') === 'mail')
    return (
      <MailScreen
        state={wanted('mail-state')}
        search={wanted('search') ?? ''}
        chosen={Number(wanted('mail') ?? 0) || null}
        change={change}
      />
    )
  const filter: Filter = Object.fromEntries(
    (['search', 'post', 'writer'] as const).flatMap((name) => {
      const value = wanted(name)
      return value === undefined ? [] : [[name, value]]
    }),
  )
  return (
    <Queue
      state={STATES.find((one) => one === wanted('state')) ?? 'waiting'}
      filter={filter}
      chosen={Number(wanted('comment') ?? 0) || null}
      change={change}
    />
  )
}

interface QueueProps {
  state: State
  filter: Filter
  chosen: number | null
  change(changes: Readonly<Record<string, string | null>>): void
}

function Queue({ state, filter, chosen, change }: QueueProps) {
  const [size, setSize] = useState(FIRST)
  const [selected, setSelected] = useState<ReadonlySet<number>>(new Set())
  const [work, setWork] = useState<Work>(null)
  const list = JSON.stringify([state, filter])
  const [shownList, setShownList] = useState(list)
  if (list !== shownList) {
    setShownList(list)
    setSize(FIRST)
    setSelected(new Set())
    setWork(null)
  }
  const read = useRead(
    'GET /api/comments',
    { query: { state, ...filter, size: String(size) } },
    { placeholderData: (known) => known },
  )
  const comments = read.data?.comments ?? NONE
  const moderation = useModeration()
  const open = chosen ?? comments[0]?.id ?? null
  const detail = useRead(
    'GET /api/comment',
    { query: { id: String(open ?? 1) } },
    { enabled: open !== null, placeholderData: (known) => known },
  )
  // While another comment is loading, the one before is still on the screen.
  const isCurrent = detail.data?.id === open

  /** The comment that keys refer to: a second key may come before the address has changed. */
  const current = useRef(open)
  useEffect(() => {
    current.current = open
  }, [open])
  const choose = (id: number | null) => {
    current.current = id
    setWork(null)
    change({ comment: id === null ? null : String(id) })
    document.querySelector(`[data-id="${id ?? 0}"]`)?.scrollIntoView({ block: 'nearest' })
  }
  const act = async (to: State) => {
    const id = current.current
    const wanted = selected.size > 0 ? selected : new Set(id === null ? [] : [id])
    const refs = comments.filter((one) => wanted.has(one.id))
    // A comment that the list does not have, by a link from elsewhere.
    if (refs.length === 0 && detail.data && detail.data.id === id) {
      await moderation.setState([detail.data], to)
      return
    }
    const at = comments.findIndex((one) => one.id === id)
    const next = [...comments.slice(at + 1), ...comments.slice(0, Math.max(0, at)).reverse()].find(
      (one) => !wanted.has(one.id),
    )
    if (refs.length === 0 || !(await moderation.setState(refs, to))) return
    setSelected(new Set())
    if (to !== state) choose(next?.id ?? null)
  }
  const onKey = (event: KeyboardEvent) => {
    if (isTyping(event.target) || event.altKey) return
    if ((event.ctrlKey || event.metaKey) && event.key === 'z') {
      event.preventDefault()
      void moderation.undo()
      return
    }
    if (event.ctrlKey || event.metaKey) return
    const id = current.current
    const step = { ArrowDown: 1, ArrowUp: -1, j: 1, k: -1 }[event.key]
    const digit = DIGITS[event.key]
    if (step !== undefined) {
      const at = comments.findIndex((one) => one.id === id)
      const next = comments[Math.min(Math.max(at + step, 0), comments.length - 1)]
      event.preventDefault()
      if (next) choose(next.id)
    } else if (event.key === ' ' && id !== null && !(event.target instanceof HTMLButtonElement)) {
      event.preventDefault()
      setSelected((known) => {
        const next = new Set(known)
        if (!next.delete(id)) next.add(id)
        return next
      })
    } else if (digit !== undefined) {
      event.preventDefault()
      void act(digit)
    } else if (isCurrent && (event.key === 'r' || event.key === 'e')) {
      event.preventDefault()
      setWork(event.key === 'r' ? 'reply' : 'edit')
    }
  }
  const keys = useRef(onKey)
  useEffect(() => {
    keys.current = onKey
  })
  useEffect(() => {
    const listen = (event: KeyboardEvent) => keys.current(event)
    window.addEventListener('keydown', listen)
    return () => window.removeEventListener('keydown', listen)
  }, [])
  const isMore = read.data?.isMore ?? false
  return (
    <main className="comments">
      <CommentQueue
        state={state}
        filter={filter}
        change={change}
        comments={comments}
        counts={read.data?.counts}
        open={open}
        selected={selected}
        select={setSelected}
        isLoading={read.isLoading}
        error={read.error?.message ?? null}
        more={isMore && size < MOST ? () => setSize(Math.min(MOST, size + FIRST)) : undefined}
        isCut={isMore && size >= MOST}
      />
      {open === null || !detail.data ? (
        <section className="pane thread">
          <p className="quiet" role="status">
            {open === null ? words.choose : (detail.error?.message ?? words.loading)}
          </p>
        </section>
      ) : (
        <>
          <ThreadPage
            comment={detail.data}
            moderation={moderation}
            isCurrent={isCurrent}
            work={work}
            setWork={setWork}
            act={(to) => void act(to)}
          />
          <CommentReasons comment={detail.data} moderation={moderation} change={change} />
        </>
      )}
    </main>
  )
}
