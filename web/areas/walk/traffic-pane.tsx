/** The blog's recent requests, live. A click walks one. */
import { Button } from 'antd'
import { useState } from 'react'
import type { Accepts } from '../../../contract/walk-record.ts'
import type { TrafficItem } from '../../../contract/walk.ts'
import { useTraffic } from '../../api/traffic.ts'
import { formatClock, formatMilliseconds } from '../../shared/words/format.ts'
import { words } from './words.ts'

const text = words.traffic

type WalkIt = (path: string, accepts: Accepts) => void

export function TrafficPane({ walk }: { walk: WalkIt }) {
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
            <Row key={one.id} item={one} walk={walk} />
          ))}
        </div>
      )}
    </section>
  )
}

function Row({ item, walk }: { item: TrafficItem; walk: WalkIt }) {
  const { at, method, target, status, route, accepts, fragments, milliseconds } = item
  const canWalk = method === 'GET'
  return (
    <button
      className="request"
      disabled={!canWalk}
      title={canWalk ? text.walk(target) : text.notWalked(method)}
      onClick={() => walk(target, accepts)}
    >
      <span>{formatClock(at)}</span>
      <span className={status >= 400 ? 'failed' : ''}>{status}</span>
      <span className="target">
        {method === 'GET' ? '' : `${method} `}
        {target}
      </span>
      <span className="muted">{route ?? text.noRoute}</span>
      <span className="kept">
        {accepts === 'json'
          ? text.json
          : fragments.total === 0
            ? ''
            : text.stored(fragments.hits, fragments.total)}
      </span>
      <span className="number">{formatMilliseconds(milliseconds)}</span>
    </button>
  )
}
