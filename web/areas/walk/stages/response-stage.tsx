/** What the reader got. */
import type { WalkRecord } from '../../../../contract/operations.ts'
import { Chip } from '../../../shared/marks/marks.tsx'
import { formatBytes } from '../../../shared/words/words.ts'

export function ResponseStage({ record }: { record: WalkRecord }) {
  const { headers } = record.response
  const worth = ['location', 'allow', 'cache-control', 'cache-status', 'retry-after'].filter(
    (name) => name in headers,
  )
  return (
    <p className="reason mono">
      {worth.map((name) => (
        <span key={name} className="header">
          {name}: {headers[name]}
        </span>
      ))}
    </p>
  )
}

ResponseStage.Title = function ResponseTitle({ record }: { record: WalkRecord }) {
  const { status, bytes } = record.response
  return (
    <>
      Response <Chip tone={status < 300 ? 'fine' : status < 400 ? 'look' : 'fail'}>{status}</Chip>{' '}
      <span className="plain-weight muted mono">{formatBytes(bytes)}</span>
    </>
  )
}
