/** What the address carried: raw and as a typed value. */
import type { WalkRecord } from '../../../../contract/operations.ts'
import { Chip } from '../../../shared/marks/marks.tsx'

export function ParametersStage({ record }: { record: WalkRecord }) {
  if (record.parameters.length === 0) return <p className="reason">The address carries none.</p>
  return (
    <div className="parameters">
      {record.parameters.map(({ name, type, raw, value, note, from }) => (
        <span key={`${from} ${name}`}>
          <code>{from === 'query' ? `?${name}` : name}</code> <Chip>{type}</Chip>{' '}
          {value === null ? null : typeof value === 'number' ? value : `“${value}”`}
          {raw !== null && raw !== '' && raw !== String(value) ? (
            <span className="muted"> from “{raw}”</span>
          ) : null}
          {note ? <span className="muted"> {note}</span> : null}
        </span>
      ))}
    </div>
  )
}
