/** The route that answered, and why earlier routes did not. */
import { useState } from 'react'
import type { WalkRecord } from '../../../../contract/walk-record.ts'
import { Plate } from '../../../shared/marks/marks.tsx'
import { ordinal } from '../../../shared/words/format.ts'
import { words } from '../words.ts'
import type { StageTools } from './stage-tools.ts'

const text = words.route

export function RouteStage({ record, tools }: { record: WalkRecord; tools: StageTools }) {
  const [open, setOpen] = useState(false)
  const { candidates, total, name, place, note } = record.route
  const failed = candidates.filter((one) => one.reason !== null)
  const closest = failed.at(-1)
  return (
    <>
      <p className="reason">
        {name === null ? (note ?? text.noMatch) : text.tried(ordinal(candidates.length), total)}
        {closest && name !== null ? (
          <>
            {' '}
            <code>{closest.pattern}</code> {text.didNotMatch} {closest.reason}.
          </>
        ) : null}{' '}
        {failed.length > 0 ? (
          <button className="link" aria-expanded={open} onClick={() => setOpen(!open)}>
            {open ? text.fewer : name === null ? text.whyNone : text.allTried}
          </button>
        ) : null}{' '}
        <button className="link" onClick={() => tools.open('routes.yaml', place?.line)}>
          {text.open}
        </button>
      </p>
      {open ? (
        <ol className="candidates">
          {candidates.map((one) => (
            <li key={one.route}>
              <Plate pattern={one.pattern} />{' '}
              <span className={one.reason === null ? 'answered' : 'muted'}>
                {one.reason ?? text.answered}
              </span>
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
      {text.title}{' '}
      {pattern === null ? (
        <span className="plain-weight muted">{text.none}</span>
      ) : (
        <Plate pattern={pattern} />
      )}{' '}
      <span className="plain-weight">{name}</span>
    </>
  )
}
