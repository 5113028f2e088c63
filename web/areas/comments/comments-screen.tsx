/** The Comments area: the queue on the left, the thread in the middle, the reasons on the right. */
import { useEffect, useRef, useState } from 'react'
import { useSearchParams } from 'react-router'
import type { CommentItem } from '../../../contract/comments.ts'
import { useRead } from '../../api/queries.ts'
import { CommentQueue, STATES, type State } from './comment-queue.tsx'
import { CommentReasons } from './comment-reasons.tsx'
import { RulesForm } from './rules-form.tsx'
import { ThreadPage, type Work } from './thread-page.tsx'
import { useModeration, type CommentRef } from './use-moderation.ts'
import { words } from './words.ts'
import './comments.css'

/** The state that each digit sets. */
const DIGITS: Readonly<Record<string, State>> = { 1: 'shown', 2: 'spam', 3: 'deleted', 4: 'waiting' }
const NONE: readonly CommentItem[] = []

const isTyping = (target: EventTarget | null) =>
  target instanceof HTMLElement &&
  (target.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName)) &&
  !(target instanceof HTMLInputElement && target.type === 'checkbox')

export function CommentsScreen() {
  const [parameters, setParameters] = useSearchParams()
  const wanted = (name: string) => parameters.get(name) ?? undefined
  const state = STATES.find((one) => one === wanted('state')) ?? 'waiting'
  const filter = Object.fromEntries(
    (['search', 'post', 'writer'] as const).flatMap((name) => {
      const value = wanted(name)
      return value === undefined ? [] : [[name, value]]
    }),
  ) as Partial<Record<'search' | 'post' | 'writer', string>>
  const key = JSON.stringify([state, filter])
  const change = (changes: Readonly<Record<string, string | null>>) =>
    setParameters((known) => {
      const next = new URLSearchParams(known)
      for (const [name, value] of Object.entries(changes))
        if (value === null) next.delete(name)
        else next.set(name, value)
      return next
    })
  if (wanted('state') === 'rules') return <RulesForm close={() => change({ state: null })} />
  return (
    <Queue
      key={key}
      state={state}
      filter={filter}
      chosen={Number(wanted('comment') ?? 0) || null}
      change={change}
    />
  )
}

interface QueueProps {
  state: State
  filter: Partial<Record<'search' | 'post' | 'writer', string>>
  chosen: number | null
  change(changes: Readonly<Record<string, string | null>>): void
}

function Queue({ state, filter, chosen, change }: QueueProps) {
  const [earlier, setEarlier] = useState<readonly CommentItem[]>([])
  const [before, setBefore] = useState<number | null>(null)
  const query = { state, ...filter }
  const first = useRead('GET /api/comments', { query }, { placeholderData: (known) => known })
  const further = useRead(
    'GET /api/comments',
    { query: { ...query, before: String(before ?? 1) } },
    { enabled: before !== null },
  )
  const [taken, setTaken] = useState<number | null>(null)
  if (before !== null && further.data && taken !== before) {
    setTaken(before)
    setEarlier([...earlier, ...further.data.comments])
  }
  const fresh = first.data?.comments ?? NONE
  const comments = [...fresh, ...earlier.filter((one) => !fresh.some((other) => other.id === one.id))]
  const [selected, setSelected] = useState<ReadonlySet<number>>(new Set())
  const [work, setWork] = useState<Work>(null)
  const moderation = useModeration()
  const open = chosen ?? comments[0]?.id ?? null
  const detail = useRead(
    'GET /api/comment',
    { query: { id: String(open ?? 1) } },
    { enabled: open !== null, placeholderData: (known) => known },
  )
  // While another comment is loading, the one before is still on the screen, and nothing can be done with it.
  const isCurrent = detail.data?.id === open
  const isMore = before === null ? first.data?.isMore : further.data?.isMore
  const last = comments.at(-1)

  const choose = (id: number) => {
    setWork(null)
    change({ comment: String(id) })
    document.querySelector(`[data-id="${id}"]`)?.scrollIntoView({ block: 'nearest' })
  }
  const act = async (to: State) => {
    const shown = selected.size > 0 ? comments.filter((one) => selected.has(one.id)) : []
    const refs: CommentRef[] = shown.length > 0 ? shown : detail.data && isCurrent ? [detail.data] : []
    if (refs.length === 0) return
    const ids = new Set(refs.map((one) => one.id))
    const at = comments.findIndex((one) => one.id === open)
    const next = [...comments.slice(at + 1), ...comments.slice(0, at).reverse()].find(
      (one) => !ids.has(one.id),
    )
    if (!(await moderation.setState(refs, to))) return
    setSelected(new Set())
    setEarlier(earlier.filter((one) => !ids.has(one.id)))
    change({ comment: next === undefined || to === state ? null : String(next.id) })
  }
  const keys = useRef<(event: KeyboardEvent) => void>(() => undefined)
  useEffect(() => {
    keys.current = (event) => {
      if (isTyping(event.target) || event.altKey) return
      if ((event.ctrlKey || event.metaKey) && event.key === 'z') {
        event.preventDefault()
        void moderation.undo()
        return
      }
      if (event.ctrlKey || event.metaKey) return
      const step = { ArrowDown: 1, ArrowUp: -1, j: 1, k: -1 }[event.key]
      const at = comments.findIndex((one) => one.id === open)
      const state = DIGITS[event.key]
      if (step !== undefined) {
        const next = comments[Math.min(Math.max(at + step, 0), comments.length - 1)]
        event.preventDefault()
        if (next) choose(next.id)
      } else if (event.key === ' ' && open !== null && !(event.target instanceof HTMLButtonElement)) {
        event.preventDefault()
        const next = new Set(selected)
        if (!next.delete(open)) next.add(open)
        setSelected(next)
      } else if (state !== undefined) {
        event.preventDefault()
        void act(state)
      } else if (isCurrent && (event.key === 'r' || event.key === 'e')) {
        event.preventDefault()
        setWork(event.key === 'r' ? 'reply' : 'edit')
      }
    }
  })
  useEffect(() => {
    const listen = (event: KeyboardEvent) => keys.current(event)
    window.addEventListener('keydown', listen)
    return () => window.removeEventListener('keydown', listen)
  }, [])
  return (
    <main className="comments">
      <CommentQueue
        state={state}
        filter={filter}
        change={change}
        comments={comments}
        counts={first.data?.counts}
        open={open}
        selected={selected}
        select={setSelected}
        isLoading={first.isLoading}
        error={first.error?.message ?? null}
        more={isMore && last ? () => setBefore(last.id) : undefined}
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
