/** The parameters of the address, raw and as typed values. */
import type { WalkRecord } from '../../../../contract/walk-record.ts'
import { Chip } from '../../../shared/marks/marks.tsx'
import { words } from '../words.ts'

export function ParametersStage({ record }: { record: WalkRecord }) {
  if (record.parameters.length === 0) return <p className="reason">{words.parameters.none}</p>
  return (
    <div className="parameters">
      {record.parameters.map(({ name, type, raw, value, note, from }) => (
        <span key={`${from} ${name}`}>
          <code>{from === 'query' ? `?${name}` : name}</code> <Chip>{type}</Chip>{' '}
          {value === null ? null : typeof value === 'number' ? value : `“${value}”`}
          {raw !== null && raw !== '' && raw !== String(value) ? (
            <span className="muted"> {words.parameters.from(raw)}</span>
          ) : null}
          {note ? <span className="muted"> {note}</span> : null}
        </span>
      ))}
    </div>
  )
}
