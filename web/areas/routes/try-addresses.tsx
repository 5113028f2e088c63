/** Pasted addresses, one a line: what becomes of each, and why. */
import { useQuery } from '@tanstack/react-query'
import { Input } from 'antd'
import { useDeferredValue, useState } from 'react'
import { Link, useSearchParams } from 'react-router'
import type { Trial } from '../../../contract/operations.ts'
import { call } from '../../api/client.ts'
import { Chip, type Tone } from '../../shared/marks/marks.tsx'

const TONES: Record<Trial['outcome'], Tone> = {
  answered: 'blue',
  redirect: 'look',
  'not-found': 'fail',
  refused: 'fail',
  failed: 'fail',
}
const LIMIT = 200

export function TryAddresses({ start }: { start: string }) {
  const [parameters, setParameters] = useSearchParams()
  const [typed, setTyped] = useState<string | null>(parameters.get('addresses'))
  const text = typed ?? start
  const lines = useDeferredValue(text)
    .split('\n')
    .filter((line) => line.trim() !== '')
  const trials = useQuery({
    queryKey: ['routes', 'try', lines.slice(0, LIMIT)],
    queryFn: () => call('POST /api/routes/try', { body: { addresses: lines.slice(0, LIMIT) } }),
    enabled: lines.length > 0,
    placeholderData: (known) => known,
  })
  return (
    <>
      <div className="padded">
        <Input.TextArea
          aria-label="Addresses to try, one a line"
          className="mono"
          autoSize={{ minRows: 4, maxRows: 10 }}
          value={text}
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
        {lines.length > LIMIT ? (
          <p className="muted">
            The first {LIMIT} of {lines.length} lines are tried.
          </p>
        ) : null}
      </div>
      <ul className="trials" aria-live="polite">
        {(trials.data ?? []).map((one, index) => (
          <li key={index}>
            <Link to={`/walk?path=${encodeURIComponent(pathOf(one.address))}`} title="Walk it">
              <code>{one.address}</code>
            </Link>
            <Chip tone={TONES[one.outcome]}>
              {one.outcome === 'answered' ? (one.route ?? '200') : one.status}
            </Chip>
            <span className="muted">
              {one.reason}
              {one.to === null ? null : (
                <>
                  {one.outcome === 'redirect' ? ': ' : '; nearest: '}
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
