/** The queries of the page in words and as SQL, their rows, and the template lines that read them. */
import { useState } from 'react'
import { Link } from 'react-router'
import type { WalkQuery, WalkRecord } from '../../../../contract/walk-record.ts'
import { Chip, Copy, Time, type Tone } from '../../../shared/marks/marks.tsx'
import { queryAddress } from '../../../shared/queries/query-address.ts'
import { Sql, withValues } from '../../../shared/queries/sql.tsx'
import { asSentence, rowsOf } from '../../../shared/words/format.ts'
import { words as shared } from '../../../shared/words/words.ts'
import { useRead } from '../../../api/queries.ts'
import { QueryPlanView } from '../../../shared/queries/query-plan.tsx'
import { words } from '../words.ts'
import type { StageTools } from './stage-tools.ts'

const text = words.queries

const TONE: Record<WalkQuery['outcome'], Tone> = {
  rows: 'fine',
  empty: 'look',
  'not-run': 'plain',
  failed: 'fail',
}

export function QueriesStage({ record, tools }: { record: WalkRecord; tools: StageTools }) {
  const { runs } = record.queries
  if (runs.length === 0) return <p className="reason">{text.none}</p>
  return (
    <>
      {runs.map((run) => (
        <QueryBox
          key={run.data}
          run={run}
          times={runs.filter((one) => one.query === run.query && one.outcome !== 'not-run').length}
          tools={tools}
          walked={{ path: record.target, as: record.as, accepts: record.accepts }}
          // A form is not walked again only for a plan.
          hasPlan={record.method === 'GET'}
        />
      ))}
      {tools.editorAt('queries')}
    </>
  )
}

interface BoxProps {
  run: WalkQuery
  /** How often the query ran for this page. */
  times: number
  tools: StageTools
  walked: Walked
  hasPlan: boolean
}

/** The request that was walked. */
type Walked = Pick<WalkRecord, 'as' | 'accepts'> & { path: string }

/** From this number of runs on, a query probably runs once per row of another. */
const OFTEN = 3

function QueryBox({ run, times, tools, walked, hasPlan }: BoxProps) {
  const [open, setOpen] = useState(run.outcome === 'failed')
  const { document } = run
  return (
    <div className={`query is-${run.outcome}`}>
      <div className="row">
        {document === null ? (
          <b>{run.query}</b>
        ) : (
          <button className="name" onClick={() => tools.open(document)} title={text.open(document)}>
            {run.query}
          </button>
        )}
        {run.data === run.query ? null : <span className="muted">{text.as(run.data)}</span>}
        <span
          className="grow muted beside"
          title={run.outcome === 'not-run' ? `${asSentence(run.sentence)} ${run.why ?? ''}` : undefined}
        >
          {run.outcome === 'not-run' ? run.why : ''}
        </span>
        {times >= OFTEN ? <Chip tone="look">{text.often(times)}</Chip> : null}
        <Chip tone={TONE[run.outcome]}>
          {run.outcome === 'not-run' ? text.notRun : run.outcome === 'failed' ? text.failed : rowsOf(run)}
        </Chip>
        {run.outcome === 'not-run' ? null : (
          <>
            <Time value={run.milliseconds} />
            <button className="link" aria-expanded={open} onClick={() => setOpen(!open)}>
              {open ? shared.hide : text.details}
            </button>
          </>
        )}
      </div>
      {run.outcome === 'not-run' ? null : <p className="sentence">{asSentence(run.sentence)}</p>}
      {run.why && run.outcome !== 'not-run' ? (
        <p className="why">
          {run.why}{' '}
          {walked.as === 'reader' && run.isUnpublished ? (
            <button className="link" onClick={() => tools.walkAs('author')}>
              {text.walkAsAuthor}
            </button>
          ) : null}
        </p>
      ) : null}
      {open
        ? run.statements.map((statement, index) => (
            <div key={index} className="statement">
              <Sql sql={statement.sql} values={statement.values} />
              <div className="statement-facts">
                {text.rowsIn(statement.rows)} <Time value={statement.milliseconds} />{' '}
                <Copy text={withValues(statement.sql, statement.values)} what={text.theStatement} />
              </div>
            </div>
          ))
        : null}
      {open && document !== null && run.outcome !== 'not-run' ? (
        <Link className="link" to={queryAddress(document, run.parameters, walked.as)}>
          {text.otherValues}
        </Link>
      ) : null}
      {open && hasPlan && run.statements.length > 0 ? <PlanOnDemand walked={walked} data={run.data} /> : null}
      {open && run.read.length > 0 ? (
        <ul className="read" aria-label={text.readBy}>
          {run.read.map(({ field, places }) => (
            <li key={field}>
              <code>{field}</code>
              {places.map(({ document: template, line }) => (
                <button
                  key={`${template}:${line ?? 0}`}
                  className="link"
                  title={text.open(template)}
                  onClick={() => tools.open(template, line)}
                >
                  {`${template.replace(/^templates\//, '').replace(/\.liquid$/, '')}:${line ?? 1}`}
                </button>
              ))}
            </li>
          ))}
        </ul>
      ) : null}
      {open && run.shown.length > 0 ? (
        <ul className="rows" aria-label={text.rows}>
          {run.shown.map(({ label, document: post }, index) => (
            <li key={index}>
              {post === null ? (
                label
              ) : (
                <button className="link" title={text.open(post)} onClick={() => tools.open(post)}>
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

/** The plan of the query's statements, measured when the user requests it. */
function PlanOnDemand({ walked, data }: { walked: Walked; data: string }) {
  const [isWanted, setWanted] = useState(false)
  const plan = useRead(
    'GET /api/walk/plan',
    { query: { ...walked, data } },
    { enabled: isWanted, staleTime: 0, retry: false },
  )
  if (!isWanted)
    return (
      <button className="link" onClick={() => setWanted(true)}>
        {text.explain}
      </button>
    )
  return (
    <QueryPlanView
      plan={plan.data}
      problem={plan.error?.message ?? null}
      isMeasuring={plan.isFetching}
      again={() => void plan.refetch()}
      note={text.explained}
    />
  )
}
