/** Pasted addresses, one per line: how each is answered, and why. */
import { Input } from 'antd'
import { useDeferredValue, useState } from 'react'
import { Link, useSearchParams } from 'react-router'
import type { AddressTest } from '../../../contract/routes.ts'
import { useRead } from '../../api/queries.ts'
import { Chip, type Tone } from '../../shared/marks/marks.tsx'
import { words } from './words.ts'

const text = words.test

const TONES: Record<AddressTest['outcome'], Tone> = {
  answered: 'blue',
  redirect: 'look',
  'not-found': 'fail',
  refused: 'fail',
  failed: 'fail',
}

/** How many lines are tested at a time. */
const LIMIT = 200

export function TestAddresses({ start }: { start: string }) {
  const [parameters, setParameters] = useSearchParams()
  const [typed, setTyped] = useState<string | null>(parameters.get('addresses'))
  const shown = typed ?? start
  const lines = useDeferredValue(shown)
    .split('\n')
    .filter((line) => line.trim() !== '')
  const tests = useRead(
    'POST /api/routes/test',
    { body: { addresses: lines.slice(0, LIMIT) } },
    { enabled: lines.length > 0, placeholderData: (known) => known },
  )
  return (
    <>
      <div className="padded">
        <Input.TextArea
          aria-label={text.label}
          className="mono"
          autoSize={{ minRows: 4, maxRows: 10 }}
          value={shown}
          spellCheck={false}
          onChange={(event) => setTyped(event.target.value)}
          onBlur={() => {
            if (typed === null) return
            setParameters(
              (known) => {
                const next = new URLSearchParams(known)
                next.set('addresses', typed)
                return next
              },
              { replace: true },
            )
          }}
        />
        {lines.length > LIMIT ? <p className="muted">{text.limit(LIMIT, lines.length)}</p> : null}
      </div>
      <ul className="trials" aria-live="polite">
        {(tests.data ?? []).map((one, index) => (
          <li key={index}>
            <Link to={`/walk?path=${encodeURIComponent(pathOf(one.address))}`} title={text.walk}>
              <code>{one.address}</code>
            </Link>
            <Chip tone={TONES[one.outcome]}>
              {one.outcome === 'answered' ? (one.route ?? '200') : one.status}
            </Chip>
            <span className="muted">
              {one.reason}
              {one.to === null ? null : (
                <>
                  {' '}
                  {one.outcome === 'redirect' ? text.target : text.nearest}{' '}
                  <Link to={`/walk?path=${encodeURIComponent(one.to)}`}>{one.to}</Link>
                </>
              )}
            </span>
          </li>
        ))}
      </ul>
    </>
  )
}

const pathOf = (address: string) => {
  const path = address.trim().replace(/^https?:\/\/[^/?#]*/i, '')
  return path.startsWith('/') ? path : `/${path}`
}
