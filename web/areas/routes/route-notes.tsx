/** What checks found about the routes, below the list, each with what to do about it. */
import { Button } from 'antd'
import { Link } from 'react-router'
import type { CheckFinding } from '../../../contract/operations.ts'
import { useApply } from '../../shared/changes/apply.ts'

export function RouteNotes({ findings }: { findings: readonly CheckFinding[] }) {
  const { mend } = useApply()
  return findings.map((one) => (
    <div key={`${one.rule} ${one.subject}`} className={`route-note ${one.affects}`} role="note">
      <p>
        <b>{one.title}.</b> {one.detail}
      </p>
      <div className="row">
        {one.mends.map((each, index) => (
          <Button
            key={each.label}
            size="small"
            type={index === 0 ? 'primary' : 'default'}
            title={each.after}
            onClick={() => void mend(each)}
          >
            {each.label}
          </Button>
        ))}
        {one.witness.address === null ? null : (
          <Link to={`/walk?path=${encodeURIComponent(one.witness.address)}`} className="link">
            Walk {one.witness.address}
          </Link>
        )}
        <span className="grow" />
        <Link
          to={`/checks?finding=${encodeURIComponent(`${one.rule} ${one.subject}`)}`}
          className="link muted"
        >
          the whole finding
        </Link>
      </div>
    </div>
  ))
}
