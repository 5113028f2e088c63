/** One step: each row before and after, and undoing all of them. */
import { Button } from 'antd'
import { useState } from 'react'
import type { ChangedField, ChangedRow, StepItem } from '../../../contract/changes.ts'
import { useRead, useWrite } from '../../api/queries.ts'
import { useInsist } from '../../shared/changes/insist.tsx'
import { useNotices } from '../../shared/changes/notices.tsx'
import { Diff } from '../../shared/editor/diff.tsx'
import { lineChanges } from '../../shared/editor/line-changes.ts'
import { formatClock, formatDate, formatDateTime } from '../../shared/words/format.ts'
import { words } from './words.ts'

interface Props {
  id: string
  /** Opens another step. */
  choose(id: string): void
}

export function StepDetail({ id, choose }: Props) {
  const { data: step, error } = useRead('GET /api/step', { query: { id } })
  const write = useWrite()
  const notices = useNotices()
  const insist = useInsist()
  const [isUndoing, setUndoing] = useState(false)
  if (error)
    return (
      <section className="pane">
        <p className="quiet">{words.gone}</p>
      </section>
    )
  if (!step)
    return (
      <section className="pane">
        <p className="quiet" role="status">
          {words.loading}
        </p>
      </section>
    )
  const undo = async () => {
    setUndoing(true)
    try {
      const undone = await insist((more) => write('POST /api/step/undo', { body: { id, ...more } }))
      if (undone) notices.done(words.wasUndone, undefined, { purged: undone.purged })
    } catch (problem) {
      notices.failed(problem)
    }
    setUndoing(false)
  }
  return (
    <section className="pane" aria-label={words.detail}>
      <header>
        <h1>
          {formatDate(step.at)}, {formatClock(step.at)}
        </h1>
        <span className="muted">{step.isOutside ? words.outside : ''}</span>
        <span className="grow" />
        {step.undoneBy === null ? (
          <Button loading={isUndoing} onClick={() => void undo()}>
            {words.undo}
          </Button>
        ) : null}
      </header>
      <div className="scroll">
        <div className="detail">
          <Relations step={step} choose={choose} />
          {step.rows.map((row, index) => (
            <Row key={index} row={row} />
          ))}
          {step.total > step.rows.length ? (
            <p className="muted">{words.more(step.total - step.rows.length)}</p>
          ) : null}
        </div>
      </div>
    </section>
  )
}

/** What it undoes, and what has undone it. */
function Relations({ step: { undoes, undoneBy }, choose }: { step: StepItem; choose(id: string): void }) {
  if (undoneBy !== null)
    return (
      <p role="status">
        {words.isUndone}{' '}
        <button className="link" onClick={() => choose(undoneBy)}>
          {words.showUndoing}
        </button>
      </p>
    )
  if (undoes === null) return null
  return (
    <p>
      <button className="link" onClick={() => choose(undoes)}>
        {words.showUndone}
      </button>
    </p>
  )
}

/** A time as the database writes it in JSON. */
const TIME = /^\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d(\.\d+)?[+-]\d\d:\d\d$/

const shown = (value: string | null) =>
  value === null ? <i>{words.none}</i> : TIME.test(value) ? formatDateTime(value) : value

const isText = ({ before, after }: ChangedField) => /\n/.test(before ?? '') || /\n/.test(after ?? '')

function Row({ row }: { row: ChangedRow }) {
  const short = row.fields.filter((one) => !isText(one))
  return (
    <>
      <h3>
        {words.row(
          row.table,
          row.title,
          row.kind,
          row.fields.map((one) => one.name),
        )}
      </h3>
      {short.length > 0 ? (
        <table>
          <thead>
            <tr>
              <th>{words.field}</th>
              {row.kind === 'created' ? null : <th>{words.before}</th>}
              {row.kind === 'deleted' ? null : <th>{words.after}</th>}
            </tr>
          </thead>
          <tbody>
            {short.map(({ name, before, after }) => (
              <tr key={name}>
                <th scope="row">{name.replaceAll('_', ' ')}</th>
                {row.kind === 'created' ? null : <td>{shown(before)}</td>}
                {row.kind === 'deleted' ? null : <td>{shown(after)}</td>}
              </tr>
            ))}
          </tbody>
        </table>
      ) : null}
      {row.fields.filter(isText).map(({ name, before, after }) =>
        before === after ? (
          <p key={name} className="muted">
            {words.beyond(name)}
          </p>
        ) : (
          <Diff key={name} changes={lineChanges(before ?? '', after ?? '')} />
        ),
      )}
    </>
  )
}
