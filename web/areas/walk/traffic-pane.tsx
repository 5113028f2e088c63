/** The blog's recent requests, live. A click walks one. */
import { App, Button } from 'antd'
import { useState } from 'react'
import type { Accepts } from '../../../contract/walk-record.ts'
import type { TrafficItem } from '../../../contract/walk.ts'
import { useTraffic } from '../../api/traffic.ts'
import { errorText } from '../../shared/words/error-text.ts'
import { formatClock, formatMilliseconds } from '../../shared/words/format.ts'
import { ApiProblem, call } from '../../api/client.ts'
import type { Typed } from './submission/use-submission.ts'
import { words } from './words.ts'

const text = words.traffic

type WalkIt = (path: string, accepts: Accepts) => void
/** @param typed what was sent, as far as it was stored */
type WalkForm = (path: string, typed: Partial<Typed>) => void

export function TrafficPane({ walk, walkForm }: { walk: WalkIt; walkForm: WalkForm }) {
  const [isPaused, setPaused] = useState(false)
  const { items, waiting } = useTraffic(isPaused)
  const notFound = items.filter((one) => one.status === 404).length
  return (
    <section className={`pane traffic${items.length === 0 ? ' is-empty' : ''}`} aria-label={text.title}>
      <header>
        <b>{text.title}</b>
        <span className="muted">{items.length === 0 ? text.empty : text.count(items.length, notFound)}</span>
        <span className="grow" />
        {waiting > 0 ? <span className="muted">{text.waiting(waiting)}</span> : null}
        {items.length === 0 ? null : (
          <Button size="small" type="text" onClick={() => setPaused(!isPaused)}>
            {isPaused ? text.resume : text.pause}
          </Button>
        )}
      </header>
      {items.length === 0 ? null : (
        <div className="scroll">
          {items.map((one) => (
            <Row key={one.id} item={one} walk={walk} walkForm={walkForm} />
          ))}
        </div>
      )}
    </section>
  )
}

function Row({ item, walk, walkForm }: { item: TrafficItem; walk: WalkIt; walkForm: WalkForm }) {
  const { at, method, target, status, route, accepts, copy, fragments, milliseconds, submission } = item
  const { message } = App.useApp()
  const form = submission?.page ?? null
  const canWalk = method === 'GET' || form !== null
  const start = async () => {
    if (form === null) walk(target, accepts)
    else walkForm(form, await sentFields(submission?.comment ?? null))
  }
  return (
    <button
      className="request"
      disabled={!canWalk}
      title={form !== null ? text.walkForm(target) : canWalk ? text.walk(target) : text.notWalked(method)}
      onClick={() => void start().catch((error: unknown) => message.error(errorText(error as Error)))}
    >
      <span>{formatClock(at)}</span>
      <span className={status >= 400 ? 'failed' : ''}>{status}</span>
      <span className="target">
        {method === 'GET' ? '' : `${method} `}
        {target}
      </span>
      <span className="muted">{route ?? text.noRoute}</span>
      <span className="kept">
        {submission
          ? text.result(words.submission.results[submission.outcome], submission.why)
          : accepts === 'json'
            ? text.json
            : copy
              ? text.copied
              : fragments.total === 0
                ? ''
                : text.stored(fragments.hits, fragments.total)}
      </span>
      <span className="number">{formatMilliseconds(milliseconds)}</span>
    </button>
  )
}

/** Returns what was sent with a stored comment; nothing if it was erased in the meantime. */
async function sentFields(id: number | null): Promise<Partial<Typed>> {
  if (id === null) return {}
  try {
    const { name, email, site, text, replyTo } = await call('GET /api/comment', { query: { id: String(id) } })
    return { name, email, site, text, parent: replyTo === null ? '' : String(replyTo.id) }
  } catch (error) {
    if (error instanceof ApiProblem && error.isNotFound) return {}
    throw error
  }
}
