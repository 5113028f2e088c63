/** The response with its most telling headers. */
import { allowedUse } from '../../../../core/caching/allowed-use.ts'
import type { WalkRecord } from '../../../../contract/walk-record.ts'
import { Chip } from '../../../shared/marks/marks.tsx'
import { formatBytes } from '../../../shared/words/format.ts'
import { words } from '../words.ts'

export function ResponseStage({ record }: { record: WalkRecord }) {
  const { headers } = record.response
  const shown = [
    'location',
    'allow',
    'cache-control',
    'etag',
    'cache-status',
    'server-timing',
    'retry-after',
  ].filter((name) => name in headers)
  return (
    <>
      <p className="reason mono">
        {shown.map((name) => (
          <span key={name} className="header">
            {name}: {headers[name]}
          </span>
        ))}
      </p>
      <p className="reason">{allowedUse(record.response.status, headers)}</p>
    </>
  )
}

ResponseStage.Title = function ResponseTitle({ record }: { record: WalkRecord }) {
  const { status, bytes } = record.response
  return (
    <>
      {words.response.title}{' '}
      <Chip tone={status < 300 ? 'fine' : status < 400 ? 'look' : 'fail'}>{status}</Chip>{' '}
      <span className="plain-weight muted mono">{formatBytes(bytes)}</span>
    </>
  )
}
