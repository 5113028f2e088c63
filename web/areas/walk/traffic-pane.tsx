/** Recent requests of the blog, live; a click walks one. */
import { Button } from 'antd'
import { useState } from 'react'
import type { TrafficItem } from '../../../contract/operations.ts'
import { useTraffic } from '../../api/traffic.ts'
import { formatMilliseconds, plural } from '../../shared/words/words.ts'

type WalkIt = (path: string, gets: TrafficItem['gets']) => void

export function TrafficPane({ walk }: { walk: WalkIt }) {
  const [paused, setPaused] = useState(false)
  const { items, waiting } = useTraffic(paused)
  const notFound = items.filter((one) => one.status === 404).length
  return (
    <section className="pane traffic" aria-label="Recent requests of the blog">
      <header>
        <b>Recent requests of the blog</b>
        <span className="muted">
          {items.length === 0
            ? 'none yet'
            : `${plural(items.length, 'request')}${notFound > 0 ? `, ${notFound} not found` : ''}`}
        </span>
        <span className="grow" />
        {waiting > 0 ? <span className="muted">{waiting} more since</span> : null}
        <Button size="small" type="text" onClick={() => setPaused(!paused)}>
          {paused ? 'Go on' : 'Pause'}
        </Button>
      </header>
      <div className="scroll">
        {items.length === 0 ? (
          <p className="quiet small">
            Open the blog in another tab: what it is asked for appears here as it happens.
          </p>
        ) : null}
        {items.map((one) => (
          <Row key={one.id} item={one} walk={walk} />
        ))}
      </div>
    </section>
  )
}

function Row({ item, walk }: { item: TrafficItem; walk: WalkIt }) {
  const { at, method, target, status, route, gets, fragments, milliseconds } = item
  const canWalk = method === 'GET'
  return (
    <button
      className="request"
      disabled={!canWalk}
      title={canWalk ? `Walk ${target}` : `${method} is not walked: it would send a form`}
      onClick={() => walk(target, gets)}
    >
      <span>{new Date(at).toLocaleTimeString('en-GB')}</span>
      <span className={status >= 400 ? 'failed' : ''}>{status}</span>
      <span className="target">
        {method === 'GET' ? '' : `${method} `}
        {target}
      </span>
      <span className="muted">{route ?? 'no route'}</span>
      <span className="kept">
        {gets === 'data'
          ? 'as data'
          : fragments.total === 0
            ? ''
            : `${fragments.hits} of ${fragments.total} kept`}
      </span>
      <span className="number">{formatMilliseconds(milliseconds)}</span>
    </button>
  )
}
