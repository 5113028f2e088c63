/** What the database was asked, in words and in SQL, and what it answered. */
import { useState } from 'react'
import type { WalkQuery, WalkRecord } from '../../../../server/workbench/contract.ts'
import { Chip, Copy, Time, type Tone } from '../../../shared/marks.tsx'
import { Sql, withValues } from '../../../shared/sql.tsx'
import { asSentence, plural } from '../../../shared/words.ts'
import type { StageTools } from '../journey.tsx'

const TONE: Record<WalkQuery['outcome'], Tone> = {
  rows: 'fine',
  empty: 'look',
  'not-run': 'plain',
  failed: 'fail',
}

export function QueriesStage({ record, tools }: { record: WalkRecord; tools: StageTools }) {
  const { runs } = record.queries
  if (runs.length === 0) return <p className="reason">Nothing was asked of the database.</p>
  return (
    <>
      {runs.map((run) => (
        <QueryBox key={run.data} run={run} tools={tools} as={record.as} />
      ))}
      {tools.editorAt('queries')}
    </>
  )
}

function QueryBox({ run, tools, as }: { run: WalkQuery; tools: StageTools; as: WalkRecord['as'] }) {
  const [open, setOpen] = useState(run.outcome === 'failed')
  const { document } = run
  return (
    <div className={`query is-${run.outcome}`}>
      <div className="row">
        {document === null ? (
          <b>{run.query}</b>
        ) : (
          <button className="name" onClick={() => tools.open(document)} title={`Open ${document}`}>
            {run.query}
          </button>
        )}
        {run.data === run.query ? null : <span className="muted">as {run.data}</span>}
        <span
          className="grow muted beside"
          title={run.outcome === 'not-run' ? asSentence(`${run.sentence}; ${run.why ?? ''}`) : undefined}
        >
          {run.outcome === 'not-run' ? run.why?.replace('not run: ', '') : ''}
        </span>
        <Chip tone={TONE[run.outcome]}>
          {run.outcome === 'not-run'
            ? 'not run'
            : run.outcome === 'failed'
              ? 'failed'
              : run.total === null
                ? plural(run.rows, 'row')
                : `${plural(run.rows, 'row')} of ${run.total}`}
        </Chip>
        {run.outcome === 'not-run' ? null : (
          <>
            <Time value={run.milliseconds} />
            <button className="link" aria-expanded={open} onClick={() => setOpen(!open)}>
              {open ? 'hide' : 'SQL, rows'}
            </button>
          </>
        )}
      </div>
      {run.outcome === 'not-run' ? null : <p className="sentence">{asSentence(run.sentence)}</p>}
      {run.why && run.outcome !== 'not-run' ? (
        <p className="why">
          {asSentence(run.why)}{' '}
          {as === 'reader' && /is a draft|is scheduled/.test(run.why) ? (
            <button className="link" onClick={() => tools.watch('author')}>
              Walk it as the author
            </button>
          ) : null}
        </p>
      ) : null}
      {open
        ? run.statements.map((statement, index) => (
            <div key={index} className="statement">
              <Sql sql={statement.sql} values={statement.values} />
              <div className="statement-facts">
                {plural(statement.rows, 'row')} in <Time value={statement.milliseconds} />{' '}
                <Copy
                  text={withValues(statement.sql, statement.values)}
                  what="the statement with its values"
                />
              </div>
            </div>
          ))
        : null}
      {open && run.shown.length > 0 ? (
        <ul className="rows" aria-label="Rows">
          {run.shown.map(({ label, document: post }, index) => (
            <li key={index}>
              {post === null ? (
                label
              ) : (
                <button className="link" title={`Open ${post}`} onClick={() => tools.open(post)}>
                  {label}
                </button>
              )}
            </li>
          ))}
        </ul>
      ) : null}
      {document === null ? null : tools.editorAt(document)}
    </div>
  )
}
