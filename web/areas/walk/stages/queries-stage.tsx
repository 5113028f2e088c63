/** What the database was asked, in words and in SQL, what it answered, and which lines of the templates read it. */
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Link } from 'react-router'
import type { WalkQuery, WalkRecord } from '../../../../contract/operations.ts'
import { Chip, Copy, Time, type Tone } from '../../../shared/marks/marks.tsx'
import { queryAddress } from '../../../shared/queries/query-address.ts'
import { Sql, withValues } from '../../../shared/queries/sql.tsx'
import { asSentence, plural, rowsOf } from '../../../shared/words/words.ts'
import { call } from '../../../api/client.ts'
import { QueryPlanView } from '../../../shared/queries/query-plan.tsx'
import type { StageTools } from './stage-tools.ts'

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
        <QueryBox
          key={run.data}
          run={run}
          times={runs.filter((one) => one.query === run.query && one.outcome !== 'not-run').length}
          tools={tools}
          asked={{ path: record.target, as: record.as, gets: record.gets }}
        />
      ))}
      {tools.editorAt('queries')}
    </>
  )
}

interface BoxProps {
  run: WalkQuery
  /** How often the page asked this query. */
  times: number
  tools: StageTools
  asked: Asked
}

/** What was walked. */
type Asked = Pick<WalkRecord, 'as' | 'gets'> & { path: string }

/** Asked so often, it is asked for each of something. */
const OFTEN = 3

function QueryBox({ run, times, tools, asked }: BoxProps) {
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
        {times >= OFTEN ? <Chip tone="look">{`asked ${times} times, once for each`}</Chip> : null}
        <Chip tone={TONE[run.outcome]}>
          {run.outcome === 'not-run' ? 'not run' : run.outcome === 'failed' ? 'failed' : rowsOf(run)}
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
          {asked.as === 'reader' && /is a draft|is scheduled/.test(run.why) ? (
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
      {open && document !== null && run.outcome !== 'not-run' ? (
        <Link className="link" to={queryAddress(document, run.parameters, asked.as)}>
          Try it with other values
        </Link>
      ) : null}
      {open && run.statements.length > 0 ? <PlanOnDemand asked={asked} data={run.data} /> : null}
      {open && run.read.length > 0 ? (
        <ul className="read" aria-label="Lines that read it">
          {run.read.map(({ field, places }) => (
            <li key={field}>
              <code>{field}</code>
              {places.map(({ document: template, line }) => (
                <button
                  key={`${template}:${line ?? 0}`}
                  className="link"
                  title={`Open ${template}`}
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

/** How PostgreSQL runs it, measured when somebody asks. */
function PlanOnDemand({ asked, data }: { asked: Asked; data: string }) {
  const [isWanted, setWanted] = useState(false)
  const plan = useQuery({
    queryKey: ['walk-plan', asked, data],
    queryFn: () => call('GET /api/walk/plan', { query: { ...asked, data } }),
    enabled: isWanted,
    staleTime: 0,
    retry: false,
  })
  if (!isWanted)
    return (
      <button className="link" onClick={() => setWanted(true)}>
        How it runs
      </button>
    )
  return (
    <QueryPlanView
      plan={plan.data}
      problem={plan.error?.message ?? null}
      isMeasuring={plan.isFetching}
      again={() => void plan.refetch()}
      note="walked again, and measured"
    />
  )
}
