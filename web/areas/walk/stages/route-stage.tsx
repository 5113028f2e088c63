/** Which route answered, and why the ones before it did not. */
import { useState } from 'react'
import type { WalkRecord } from '../../../../contract/operations.ts'
import { Plate } from '../../../shared/marks/marks.tsx'
import { asSentence, ordinal } from '../../../shared/words/words.ts'
import type { StageTools } from './stage-tools.ts'

export function RouteStage({ record, tools }: { record: WalkRecord; tools: StageTools }) {
  const [open, setOpen] = useState(false)
  const { candidates, total, name, place, note } = record.route
  const failed = candidates.filter((one) => one.reason !== null)
  const closest = failed.at(-1)
  return (
    <>
      <p className="reason">
        {name === null
          ? asSentence(note ?? 'no route answers this address')
          : `${ordinal(candidates.length)} of ${total} tried.`}
        {closest && name !== null ? (
          <>
            {' '}
            <code>{closest.pattern}</code> came before it and did not match: {closest.reason}.
          </>
        ) : null}{' '}
        {failed.length > 0 ? (
          <button className="link" aria-expanded={open} onClick={() => setOpen(!open)}>
            {open ? 'fewer' : name === null ? 'why none of them' : 'all that were tried'}
          </button>
        ) : null}{' '}
        <button className="link" onClick={() => tools.open('routes.yaml', place?.line)}>
          open routes.yaml
        </button>
      </p>
      {open ? (
        <ol className="candidates">
          {candidates.map((one) => (
            <li key={one.route}>
              <Plate pattern={one.pattern} />{' '}
              <span className={one.reason === null ? 'answered' : 'muted'}>{one.reason ?? 'answered'}</span>
            </li>
          ))}
        </ol>
      ) : null}
      {tools.editorAt('route')}
    </>
  )
}

RouteStage.Title = function RouteTitle({ record }: { record: WalkRecord }) {
  const { pattern, name } = record.route
  return (
    <>
      Route{' '}
      {pattern === null ? <span className="plain-weight muted">none</span> : <Plate pattern={pattern} />}{' '}
      <span className="plain-weight">{name}</span>
    </>
  )
}
