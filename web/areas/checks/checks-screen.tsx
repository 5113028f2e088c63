/** The Checks area: findings by whom they affect, dismissed findings, and what is proven. */
import { Button } from 'antd'
import { useEffect, useRef, useState } from 'react'
import { useSearchParams } from 'react-router'
import type { CheckFinding, CheckReport } from '../../../contract/checks.ts'
import { useWrite } from '../../api/queries.ts'
import { useChecks } from '../../shared/changes/checks.ts'
import { useNotices } from '../../shared/changes/notices.tsx'
import { formatClock, formatDate, formatElapsed } from '../../shared/words/format.ts'
import { FindingDetail, RuleDetail } from './finding-detail.tsx'
import { words } from './words.ts'
import './checks.css'

const keyOf = ({ rule, subject }: { rule: string; subject: string }) => `${rule} ${subject}`

export function ChecksScreen() {
  const { report } = useChecks()
  const [parameters, setParameters] = useSearchParams()
  if (!report)
    return (
      <main className="quiet" role="status">
        {words.loading}
      </main>
    )
  const chosen = parameters.get('finding') ?? parameters.get('rule')
  const finding =
    report.findings.find((one) => keyOf(one) === chosen) ??
    (chosen === null ? report.findings.find((one) => one.dismissed === null) : undefined)
  const rule = report.rules.find((one) => one.id === parameters.get('rule'))
  return (
    <Screen
      report={report}
      finding={rule ? undefined : finding}
      rule={rule}
      isGone={chosen !== null && !finding && !rule}
      choose={(key) => setParameters({ finding: key })}
      chooseRule={(id) => setParameters({ rule: id })}
    />
  )
}

interface ScreenProps {
  report: CheckReport
  finding: CheckFinding | undefined
  rule: CheckReport['rules'][number] | undefined
  /** Whether the address names a finding that does not exist any more. */
  isGone: boolean
  choose(key: string): void
  chooseRule(id: string): void
}

function Screen({ report, finding, rule, isGone, choose, chooseRule }: ScreenProps) {
  const write = useWrite()
  const notices = useNotices()
  const [isStarting, setStarting] = useState(false)
  const title = useRef<HTMLHeadingElement>(null)
  const runChecks = async () => {
    setStarting(true)
    await write('POST /api/checks/run', {}).catch(notices.failed)
    setStarting(false)
  }
  const open = report.findings.filter((one) => one.dismissed === null)
  const current = open.filter((one) => !one.isOutdated)
  const dismissed = report.findings.filter((one) => one.dismissed !== null)
  const outdated = open.filter((one) => one.isOutdated)
  const order = [...current, ...outdated, ...dismissed].map(keyOf)
  useEffect(() => {
    const listen = (event: KeyboardEvent) => {
      const step = { j: 1, k: -1 }[event.key]
      const { target } = event
      if (
        step === undefined ||
        event.ctrlKey ||
        event.metaKey ||
        (target instanceof HTMLElement && /^(INPUT|TEXTAREA)$/.test(target.tagName))
      )
        return
      const next =
        order[Math.min(Math.max(order.indexOf(finding ? keyOf(finding) : '') + step, 0), order.length - 1)]
      if (next !== undefined) choose(next)
    }
    window.addEventListener('keydown', listen)
    return () => window.removeEventListener('keydown', listen)
  })
  const { groups } = words
  return (
    <main className="checks">
      <section className="pane" aria-label={words.list}>
        <header>
          <h1 ref={title} tabIndex={-1}>
            {words.title}
          </h1>
          <Summary report={report} open={current.length} dismissed={dismissed.length} />
          <span className="grow" />
          <Button loading={isStarting} onClick={() => void runChecks()}>
            {words.run}
          </Button>
        </header>
        <InBrowser state={report.browser} />
        <div className="scroll">
          <Group
            title={groups.now}
            findings={current.filter((one) => one.affects === 'now')}
            chosen={finding}
            choose={choose}
          />
          <Group
            title={groups.possibly}
            findings={current.filter((one) => one.affects === 'possibly')}
            chosen={finding}
            choose={choose}
          />
          <Group title={groups.outdated} findings={outdated} chosen={finding} choose={choose} />
          {report.failed.length > 0 ? (
            <>
              <h2 className="item-list-heading">{groups.failed}</h2>
              <ul className="item-list findings">
                {report.failed.map((one) => (
                  <li key={one.rule}>
                    <button onClick={() => chooseRule(one.rule)}>
                      <i className="mark off" aria-hidden="true" />
                      <b>{one.message}</b>
                      <code>{one.rule}</code>
                    </button>
                  </li>
                ))}
              </ul>
            </>
          ) : null}
          <Group title={groups.dismissed} findings={dismissed} chosen={finding} choose={choose} />
          <h2 className="item-list-heading">{groups.proven}</h2>
          <ul className="item-list findings">
            {report.proven.map((one) => (
              <li key={one.rule}>
                <button
                  aria-current={rule?.id === one.rule ? 'true' : undefined}
                  onClick={() => chooseRule(one.rule)}
                >
                  <i className="mark fine" aria-hidden="true" />
                  <b>{one.sentence}</b>
                  <code>{one.count}</code>
                </button>
              </li>
            ))}
          </ul>
          {report.proven.length === 0 && report.finishedAt !== null ? (
            <p className="quiet small">{words.nothingProven}</p>
          ) : null}
        </div>
      </section>
      {finding ? (
        <FindingDetail
          key={keyOf(finding)}
          finding={finding}
          rule={report.rules.find((one) => one.id === finding.rule)}
          onApplied={() => title.current?.focus()}
        />
      ) : rule ? (
        <RuleDetail rule={rule} proven={report.proven.find((one) => one.rule === rule.id)} />
      ) : (
        <section className="pane">
          <p className="quiet">{emptyText(report, isGone && open.length > 0)}</p>
        </section>
      )}
    </main>
  )
}

/** Says why no finding is shown. “No findings” is only true of a complete run. */
function emptyText({ running, finishedAt }: CheckReport, isGone: boolean): string {
  if (isGone) return words.gone
  if (running) return words.stillRunning
  return finishedAt === null ? words.notRunYet : words.noFindings
}

function Summary({ report, open, dismissed }: { report: CheckReport; open: number; dismissed: number }) {
  const { running, finishedAt, milliseconds, rules } = report
  if (running) return <span role="status">{words.running(running.done, running.total)}</span>
  if (finishedAt === null) return <span role="status">{words.notRun}</span>
  const parts = [
    words.ran(rules.length, formatClock(finishedAt), formatElapsed(milliseconds)),
    words.findings(open),
    ...(dismissed > 0 ? [words.dismissedCount(dismissed)] : []),
  ]
  return <span role="status">{parts.join(' · ')}</span>
}

/** The checks that open pages in Chromium. They take too long to run after each save. */
function InBrowser({ state }: { state: CheckReport['browser'] }) {
  const write = useWrite()
  const notices = useNotices()
  const text = words.browser
  const change = (operation: 'POST /api/checks/browser' | 'DELETE /api/checks/browser') =>
    void write(operation, {}).catch(notices.failed)
  return (
    <section className="in-browser" aria-label={text.label}>
      <span>
        <b>{text.what}</b>{' '}
        <span className="muted" role="status">
          {browserText(state)}
        </span>
      </span>
      <span className="grow" />
      {state.running ? (
        <Button size="small" onClick={() => change('DELETE /api/checks/browser')}>
          {text.cancel}
        </Button>
      ) : (
        <Button size="small" disabled={!state.isInstalled} onClick={() => change('POST /api/checks/browser')}>
          {text.run}
        </Button>
      )}
    </section>
  )
}

function browserText(state: CheckReport['browser']): string {
  const { isInstalled, running, finishedAt, milliseconds, isOutdated, failed } = state
  const text = words.browser
  if (!isInstalled) return text.missing
  if (running) return running.total === 0 ? text.starting : text.running(running.done, running.total)
  if (failed !== null) return text.failed(failed)
  if (finishedAt === null) return text.notRun
  return isOutdated ? text.outdated : text.ran(formatClock(finishedAt), formatElapsed(milliseconds))
}

interface GroupProps {
  title: string
  findings: readonly CheckFinding[]
  chosen: CheckFinding | undefined
  choose(key: string): void
}

function Group({ title, findings, chosen, choose }: GroupProps) {
  if (findings.length === 0) return null
  return (
    <>
      <h2 className="item-list-heading">{title}</h2>
      <ul className="item-list findings">
        {findings.map((one) => (
          <li key={keyOf(one)}>
            <button
              aria-current={chosen && keyOf(chosen) === keyOf(one) ? 'true' : undefined}
              onClick={() => choose(keyOf(one))}
            >
              <i className={`mark ${one.dismissed ? 'off' : one.affects}`} aria-hidden="true" />
              <b>{one.title}</b>
              <code>{one.rule}</code>
              <span className="muted">
                {one.dismissed
                  ? words.finding.dismissedFor(one.dismissed.reason, formatDate(one.dismissed.at))
                  : one.detail}
              </span>
            </button>
          </li>
        ))}
      </ul>
    </>
  )
}
