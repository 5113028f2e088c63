/** Compares all stored copies with what would be rendered now. */
import { Button, Progress } from 'antd'
import type { AuditReport } from '../../../contract/cache.ts'
import { useRead, useWrite } from '../../api/queries.ts'
import { useNotices } from '../../shared/changes/notices.tsx'
import { Diff } from '../../shared/editor/diff.tsx'
import { lineChanges } from '../../shared/editor/line-changes.ts'
import { words } from './words.ts'

const text = words.audit

export function Audit() {
  const write = useWrite()
  const notices = useNotices()
  const read = useRead(
    'GET /api/cache/audit',
    {},
    {
      refetchInterval: ({ state }) => (state.data?.state === 'running' ? 300 : false),
    },
  )
  const report = read.data ?? { state: 'none' }
  const isRunning = report.state === 'running'
  const act = () =>
    (isRunning ? write('DELETE /api/cache/audit', {}) : write('POST /api/cache/audit', {})).catch(
      notices.failed,
    )
  return (
    <section className="pane audit" aria-label={text.title}>
      <header>
        <h1>{text.title}</h1>
        <span className="grow" />
        <Button size="small" onClick={() => void act()}>
          {isRunning ? text.cancel : text.start}
        </Button>
      </header>
      <div className="scroll" aria-live="polite">
        <Report report={report} />
      </div>
    </section>
  )
}

function Report({ report }: { report: AuditReport }) {
  switch (report.state) {
    case 'none':
      return <p className="quiet small">{text.help}</p>
    case 'failed':
      return <p className="quiet small">{report.message}</p>
    case 'running':
      return (
        <p className="outcome">
          <Progress percent={Math.round((100 * report.done) / Math.max(1, report.of))} size="small" />
          {text.running(report.done, report.of)}
        </p>
      )
    case 'done':
      return (
        <div className="outcome">
          <p>{report.compared === 0 ? text.none : text.done(report.same, report.compared)}</p>
          {report.stored > report.compared ? (
            <p className="muted">{text.notCompared(report.stored - report.compared)}</p>
          ) : null}
          {report.byAge > 0 ? <p>{text.byAge(report.byAge)}</p> : null}
          {report.different.length > 0 ? (
            <p className="failed">{text.different(report.different.length)}</p>
          ) : null}
          {report.different.map((one, index) => (
            <article key={index} className="stale">
              <p>
                <b>{one.name}</b> {one.address}
              </p>
              <Diff changes={lineChanges(one.before, one.after)} />
            </article>
          ))}
        </div>
      )
  }
}
