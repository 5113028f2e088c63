/** One finding: its witness, its cause, and its fixes as changes before they are applied. */
import { Button, Input } from 'antd'
import { useRef, useState } from 'react'
import { Link, useNavigate } from 'react-router'
import type { CheckFinding, CheckReport } from '../../../contract/checks.ts'
import { useWrite } from '../../api/queries.ts'
import { useNotices } from '../../shared/changes/notices.tsx'
import { useFixes } from '../../shared/changes/checks.ts'
import { useChanges } from '../../shared/changes/use-changes.ts'
import { StepPreview } from '../../shared/editor/step-preview.tsx'
import { documentLink } from '../../shared/editor/documents.ts'
import { Chip, Plate } from '../../shared/marks/marks.tsx'
import { formatDate } from '../../shared/words/format.ts'
import { words as shared } from '../../shared/words/words.ts'
import { words } from './words.ts'

const text = words.finding
const walkTo = (address: string) => `/walk?path=${encodeURIComponent(address)}`

/** How many other addresses or documents are shown at first. */
const OTHERS_SHOWN = 3

interface Props {
  finding: CheckFinding
  rule: CheckReport['rules'][number] | undefined
  /** Called after a fix was applied. The finding disappears once the checks have run again. */
  onApplied(): void
}

export function FindingDetail({ finding, rule, onApplied }: Props) {
  const { apply } = useChanges()
  const navigate = useNavigate()
  const [chosen, setChosen] = useState(0)
  const [isApplying, setApplying] = useState(false)
  const [isComplete, setComplete] = useState(false)
  const { witness, place, others } = finding
  const { offered: fixes, rejected, isTrying, error, tryAgain } = useFixes(finding)
  const fix = fixes[chosen] ?? fixes[0]
  const applyFix = async () => {
    if (!fix) return
    setApplying(true)
    const isApplied = await apply(fix.steps, fix.after)
    setApplying(false)
    if (isApplied) onApplied()
  }
  const shown = isComplete ? others : others.slice(0, OTHERS_SHOWN)
  return (
    <section className="pane finding" aria-label={text.label}>
      <header>
        <h2>{finding.title}</h2>
      </header>
      <div className="scroll">
        <div className="row actions">
          {fix ? (
            <Button type="primary" loading={isApplying} onClick={() => void applyFix()}>
              {text.apply}
            </Button>
          ) : null}
          {witness.address === null ? null : (
            <Button onClick={() => void navigate(walkTo(witness.address ?? '/'))}>{text.walk}</Button>
          )}
          <span className="grow" />
          <Dismissal finding={finding} />
        </div>
        <dl>
          <dt>{text.witness}</dt>
          <dd>
            {witness.address === null ? null : (
              <p>
                <Link to={walkTo(witness.address)} title={text.walkIt}>
                  <Plate pattern={witness.address} />
                </Link>
              </p>
            )}
            <p>
              {witness.text}
              {witness.actual === null ? null : (
                <>
                  {' '}
                  <Chip tone="fail">{witness.actual}</Chip>
                </>
              )}
              {witness.expected === null ? null : (
                <>
                  {' '}
                  {text.expected} <Chip tone="fine">{witness.expected}</Chip>
                </>
              )}
            </p>
          </dd>
          <dt>{text.cause}</dt>
          <dd>
            <p>{finding.cause}</p>
            {place ? (
              <p>
                <button
                  className="link mono"
                  onClick={() => void navigate(documentLink(place.document, place.line))}
                >
                  {place.document}
                  {place.line === null ? '' : `:${place.line}`}
                </button>
              </p>
            ) : null}
          </dd>
          {others.length > 0 ? (
            <>
              <dt>{text.others}</dt>
              <dd>
                <ul>
                  {shown.map((one) => (
                    <li key={one}>
                      {one.startsWith('/') ? <Link to={walkTo(one)}>{one}</Link> : <code>{one}</code>}
                    </li>
                  ))}
                </ul>
                {others.length > shown.length ? (
                  <button className="link" onClick={() => setComplete(true)}>
                    {text.more(others.length - shown.length)}
                  </button>
                ) : null}
              </dd>
            </>
          ) : null}
          <dt>{text.fix}</dt>
          <dd>
            {fix ? (
              <>
                {fixes.length > 1 ? (
                  <div className="choices" role="radiogroup" aria-label={text.fixes}>
                    {fixes.map((one, index) => (
                      <button
                        key={one.label}
                        role="radio"
                        aria-checked={one === fix}
                        onClick={() => setChosen(index)}
                      >
                        {one.label}
                      </button>
                    ))}
                  </div>
                ) : (
                  <p>{fix.label}</p>
                )}
                {fix.steps.map((step, index) => (
                  <StepPreview key={index} step={step} />
                ))}
                <p className="muted">{text.afterwards(fix.after)}</p>
              </>
            ) : (
              <p className="muted" role="status">
                {isTrying
                  ? text.trying
                  : error
                    ? error.message
                    : finding.hasFixes
                      ? text.noneHelps
                      : text.noFix}
              </p>
            )}
            {error && !isTrying ? (
              <Button size="small" onClick={tryAgain}>
                {shared.retry}
              </Button>
            ) : null}
            {rejected.length > 0 ? (
              <ul className="muted rejected">
                {rejected.map((one) => (
                  <li key={one.label}>{text.rejected(one.label, one.reason)}</li>
                ))}
              </ul>
            ) : null}
          </dd>
        </dl>
        {rule ? (
          <p className="why muted">
            {rule.why} <Link to={`/checks?rule=${rule.id}`}>{text.why}</Link>
          </p>
        ) : null}
      </div>
    </section>
  )
}

/** Dismisses a finding with a reason, or reopens it. */
function Dismissal({ finding }: { finding: CheckFinding }) {
  const write = useWrite()
  const notices = useNotices()
  const navigate = useNavigate()
  const [isAsking, setAsking] = useState(false)
  const [reason, setReason] = useState('')
  const opener = useRef<HTMLButtonElement>(null)
  const { rule, subject, dismissed } = finding
  /** The button of the other state takes the place of this one, and the focus. */
  const focusOpener = () => requestAnimationFrame(() => opener.current?.focus())
  const dismiss = async () => {
    try {
      await write('PUT /api/checks/dismissed', { body: { rule, subject, reason: reason.trim() } })
      setAsking(false)
      // The finding stays in view, now among the dismissed ones.
      await navigate(`/checks?finding=${encodeURIComponent(`${rule} ${subject}`)}`)
      focusOpener()
    } catch (error) {
      notices.failed(error)
    }
  }
  const reopen = () =>
    write('DELETE /api/checks/dismissed', { query: { rule, subject } }).then(focusOpener, notices.failed)
  if (dismissed)
    return (
      <>
        <span className="muted">{text.dismissedFor(dismissed.reason, formatDate(dismissed.at))}</span>
        <Button ref={opener} onClick={() => void reopen()}>
          {text.reopen}
        </Button>
      </>
    )
  if (!isAsking)
    return (
      <Button ref={opener} onClick={() => setAsking(true)}>
        {text.dismissWithReason}
      </Button>
    )
  return (
    <form
      className="row"
      onSubmit={(event) => {
        event.preventDefault()
        void dismiss()
      }}
    >
      <Input
        autoFocus
        size="small"
        aria-label={text.reason}
        placeholder={text.reason}
        value={reason}
        maxLength={500}
        onChange={(event) => setReason(event.target.value)}
      />
      <Button size="small" htmlType="submit" type="primary" disabled={reason.trim() === ''}>
        {text.dismiss}
      </Button>
      <Button
        size="small"
        onClick={() => {
          setAsking(false)
          focusOpener()
        }}
      >
        {shared.cancel}
      </Button>
    </form>
  )
}

export function RuleDetail({
  rule,
  proven,
}: {
  rule: CheckReport['rules'][number]
  proven: CheckReport['proven'][number] | undefined
}) {
  return (
    <section className="pane finding" aria-label={words.rule.label}>
      <header>
        <h2>
          <code>{rule.id}</code>
        </h2>
      </header>
      <div className="scroll">
        <dl>
          <dt>{words.rule.finds}</dt>
          <dd>{rule.meaning}</dd>
          <dt>{words.rule.why}</dt>
          <dd>{rule.why}</dd>
          <dt>{words.rule.result}</dt>
          <dd>{proven ? words.rule.proven(proven.sentence, proven.count) : words.rule.notProven}</dd>
          {proven?.sample ? (
            <>
              <dt>{words.rule.sample}</dt>
              <dd>{proven.sample}</dd>
            </>
          ) : null}
        </dl>
      </div>
    </section>
  )
}
