/** A comment form: what each step found, what was decided, written and dropped, and who sees it next. */
import { useState } from 'react'
import { Link } from 'react-router'
import type { WalkSubmission } from '../../../../contract/walk-record.ts'
import { Chip, Copy, Time, type Tone } from '../../../shared/marks/marks.tsx'
import { WordWeights } from '../../../shared/marks/word-weights.tsx'
import { Sql, withValues } from '../../../shared/queries/sql.tsx'
import { words as shared } from '../../../shared/words/words.ts'
import type { Submission } from '../submission/use-submission.ts'
import { words } from '../words.ts'

const text = words.submission

const MARK = { passed: '✓', stopped: '✕', noted: '·' } as const
const TONE: Record<WalkSubmission['result']['outcome'], Tone> = {
  shown: 'fine',
  waiting: 'look',
  spam: 'look',
  rejected: 'fail',
  deleted: 'plain',
  repeated: 'plain',
  preview: 'plain',
  edit: 'plain',
}

interface Props {
  record: WalkSubmission
  walked: Submission['walked']
}

export function SubmissionStage({ record, walked }: Props) {
  const { steps, words: weights, statements, row, dropped, result } = record
  return (
    <>
      <ol className="steps">
        {steps.map(({ code, outcome, sentence }, index) => (
          <li key={index} className={`is-${outcome}`}>
            <i aria-label={text.outcomes[outcome]}>{MARK[outcome]}</i>
            <span>{text.steps[code] ?? code}</span>
            <p>{sentence}</p>
          </li>
        ))}
      </ol>
      {weights.length > 0 ? (
        <Part title={text.weights(weights.length)}>
          <WordWeights weights={weights} label={text.weights(weights.length)} />
        </Part>
      ) : null}
      <Part title={text.statements(statements.length)}>
        {statements.map((one, index) => (
          <div key={index} className="statement">
            <Sql sql={one.sql} values={one.values} />
            <div className="statement-facts">
              {words.queries.rowsIn(one.rows)} <Time value={one.milliseconds} />{' '}
              <Copy text={withValues(one.sql, one.values)} what={words.queries.theStatement} />
            </div>
          </div>
        ))}
      </Part>
      {row ? (
        <Part title={text.row}>
          <table className="copies">
            <tbody>
              {Object.entries(row).map(([column, value]) => (
                <tr key={column}>
                  <th scope="row">{column}</th>
                  <td>{typeof value === 'string' ? value : JSON.stringify(value)}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </Part>
      ) : null}
      {dropped.length > 0 ? (
        <Part title={text.dropped(dropped.length, walked?.isKept === true)}>
          <ul className="dropped">
            {dropped.map(({ key, why }) => (
              <li key={key}>
                <code>{key}</code> <span className="muted">{why}</span>
              </li>
            ))}
          </ul>
        </Part>
      ) : null}
      {walked?.next ? (
        <p className="why">
          {text.seen(walked.next.isSeenByWriter, walked.next.isSeenByOthers)}{' '}
          {walked.isKept && result.comment !== null ? (
            <Link className="link" to={`/comments?state=${result.outcome}&comment=${result.comment}`}>
              {text.moderate}
            </Link>
          ) : null}
        </p>
      ) : null}
    </>
  )
}

function Part({ title, children }: { title: string; children: React.ReactNode }) {
  const [open, setOpen] = useState(false)
  return (
    <div className="submission-part">
      <div className="row">
        <span>{title}</span>
        <span className="grow" />
        <button
          className="link"
          aria-expanded={open}
          aria-label={text.open(title)}
          onClick={() => setOpen(!open)}
        >
          {open ? shared.hide : text.show}
        </button>
      </div>
      {open ? children : null}
    </div>
  )
}

SubmissionStage.Title = function SubmissionTitle({ record, walked }: Props) {
  const { outcome } = record.result
  return (
    <>
      {text.title} <Chip tone={TONE[outcome]}>{text.results[outcome]}</Chip>
      {walked && !walked.isKept ? <Chip>{text.rehearsed}</Chip> : null}
    </>
  )
}
