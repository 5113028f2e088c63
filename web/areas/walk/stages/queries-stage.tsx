/** What the database was asked, in words and in SQL, and what it answered. */
import { useState } from 'react'
import { formatSql } from '../../../../core/queries/format-sql.ts'
import type { WalkQuery, WalkRecord } from '../../../../server/workbench/contract.ts'
import { Chip, Copy, Time, type Tone } from '../../../shared/marks.tsx'
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

const KEYWORDS =
  /\b(SELECT|FROM|LEFT JOIN|INNER JOIN|WHERE|AND|OR|ON|AS|ORDER BY|ASC|DESC|NULLS LAST|LIMIT|OFFSET|EXISTS|IS NOT NULL|IS NULL|IN|ANY)\b/
const TOKENS = new RegExp(`${KEYWORDS.source}|(\\$\\d+)|(\\b\\w+\\(\\))`, 'g')

/** Columns of a statement shown at first: it is the conditions that one looks for. */
const SHOWN_COLUMNS = 4

/** A statement laid out for reading; bound values stand where they are bound. */
function Sql({ sql, values }: { sql: string; values: readonly unknown[] }) {
  const [isWhole, setWhole] = useState(false)
  const text = formatSql(sql, isWhole ? Infinity : SHOWN_COLUMNS)
  const parts: React.ReactNode[] = []
  let last = 0
  for (const found of text.matchAll(TOKENS)) {
    parts.push(text.slice(last, found.index))
    const [whole, keyword, slot] = found
    if (keyword !== undefined) parts.push(<b key={found.index}>{whole}</b>)
    else if (slot !== undefined)
      parts.push(
        <u key={found.index} title={`bound as ${slot}`}>
          {literal(values[Number(slot.slice(1)) - 1])}
        </u>,
      )
    else parts.push(<u key={found.index}>{whole}</u>)
    last = found.index + whole.length
  }
  parts.push(text.slice(last))
  return (
    <pre>
      {parts}
      {isWhole || !text.includes('…') ? null : (
        <button className="link columns" onClick={() => setWhole(true)}>
          all columns
        </button>
      )}
    </pre>
  )
}

function literal(value: unknown): string {
  if (value === null || value === undefined) return 'NULL'
  if (typeof value === 'number' || typeof value === 'boolean') return String(value)
  if (Array.isArray(value)) return `ARRAY[${value.map(literal).join(', ')}]`
  return `'${String(value).replaceAll("'", "''")}'`
}

/** For pasting into a database console: the statement as it ran, its values written out. */
const withValues = (sql: string, values: readonly unknown[]) =>
  `${sql.replace(/\$(\d+)/g, (_, number: string) => literal(values[Number(number) - 1]))};`
