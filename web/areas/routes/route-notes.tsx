/** The findings of the checks on routes, each with its fixes. */
import { Button } from 'antd'
import { useState } from 'react'
import { Link } from 'react-router'
import type { CheckFinding } from '../../../contract/checks.ts'
import type { Fix } from '../../../core/checks/finding.ts'
import { useFixes } from '../../shared/changes/checks.ts'
import { useChanges } from '../../shared/changes/use-changes.ts'
import { words as shared } from '../../shared/words/words.ts'
import { words } from './words.ts'

/** The fixes that help, each as a button, once they are asked for. */
function Fixes({ finding, onApplied }: { finding: CheckFinding; onApplied(): void }) {
  const { apply } = useChanges()
  const [isWanted, setWanted] = useState(false)
  const { offered, isTrying, error, tryAgain } = useFixes(finding, isWanted)
  const applyFix = async (fix: Fix) => {
    if (await apply(fix.steps, fix.after)) onApplied()
  }
  if (!finding.hasFixes) return null
  if (!isWanted)
    return (
      <Button size="small" type="primary" onClick={() => setWanted(true)}>
        {words.note.fix}
      </Button>
    )
  if (isTrying)
    return (
      <span className="muted" role="status">
        {words.note.trying}
      </span>
    )
  if (error)
    return (
      <Button size="small" onClick={tryAgain}>
        {shared.retry}
      </Button>
    )
  if (offered.length === 0) return <span className="muted">{words.note.noneHelps}</span>
  return offered.map((fix, index) => (
    <Button
      key={fix.label}
      // It takes the place of the button that asked for it.
      autoFocus={index === 0}
      size="small"
      type={index === 0 ? 'primary' : 'default'}
      title={fix.after}
      onClick={() => void applyFix(fix)}
    >
      {fix.label}
    </Button>
  ))
}

interface Props {
  findings: readonly CheckFinding[]
  onApplied(): void
}

export function RouteNotes({ findings, onApplied }: Props) {
  return findings.map((one) => (
    <div key={`${one.rule} ${one.subject}`} className={`route-note ${one.affects}`} role="note">
      <p>
        <b>{one.title}</b> {one.detail}
      </p>
      <div className="row">
        <Fixes finding={one} onApplied={onApplied} />
        {one.witness.address === null ? null : (
          <Link to={`/walk?path=${encodeURIComponent(one.witness.address)}`} className="link">
            {words.note.walk(one.witness.address)}
          </Link>
        )}
        <span className="grow" />
        <Link
          to={`/checks?finding=${encodeURIComponent(`${one.rule} ${one.subject}`)}`}
          className="link muted"
        >
          {words.note.open}
        </Link>
      </div>
    </div>
  ))
}
