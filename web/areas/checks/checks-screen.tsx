/** Checks: what is wrong, by who is hurt, what was set aside, and what is proven fine. */
import { useQueryClient } from '@tanstack/react-query'
import { Button } from 'antd'
import { useEffect, useState } from 'react'
import { useSearchParams } from 'react-router'
import type { CheckFinding, CheckReport } from '../../../contract/operations.ts'
import { call } from '../../api/client.ts'
import { useChecks } from '../../shared/changes/checks.ts'
import { formatMilliseconds, plural } from '../../shared/words/words.ts'
import { FindingDetail, RuleDetail } from './finding-detail.tsx'
import './checks.css'

const keyOf = ({ rule, subject }: { rule: string; subject: string }) => `${rule} ${subject}`

export function ChecksScreen() {
  const { report } = useChecks()
  const [parameters, setParameters] = useSearchParams()
  if (!report)
    return (
      <main className="quiet" role="status">
        Asking for the checks …
      </main>
    )
  const chosen = parameters.get('finding') ?? parameters.get('rule')
  const finding =
    report.findings.find((one) => keyOf(one) === chosen) ??
    (chosen === null ? report.findings.find((one) => one.aside === null) : undefined)
  const rule = report.rules.find((one) => one.id === parameters.get('rule'))
  return (
    <Screen
      report={report}
      finding={rule ? undefined : finding}
      rule={rule}
      choose={(key) => setParameters({ finding: key })}
      chooseRule={(id) => setParameters({ rule: id })}
    />
  )
}

interface ScreenProps {
  report: CheckReport
  finding: CheckFinding | undefined
  rule: CheckReport['rules'][number] | undefined
  choose(key: string): void
  chooseRule(id: string): void
}

function Screen({ report, finding, rule, choose, chooseRule }: ScreenProps) {
  const client = useQueryClient()
  const [asking, setAsking] = useState(false)
  const runAgain = async () => {
    setAsking(true)
    try {
      client.setQueryData(['checks'], await call('POST /api/checks/run', {}))
    } finally {
      setAsking(false)
    }
  }
  const open = report.findings.filter((one) => one.aside === null)
  const aside = report.findings.filter((one) => one.aside !== null)
  const order = [...open, ...aside].map(keyOf)
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
  return (
    <main className="checks">
      <section className="pane" aria-label="Findings">
        <header>
          <h1>Checks</h1>
          <Summary report={report} open={open.length} aside={aside.length} />
          <span className="grow" />
          <Button loading={asking} onClick={() => void runAgain()}>
            Run again
          </Button>
        </header>
        <div className="scroll">
          <Group
            title="Readers are affected now"
            findings={open.filter((one) => one.affects === 'now')}
            chosen={finding}
            choose={choose}
          />
          <Group
            title="Would go wrong"
            findings={open.filter((one) => one.affects === 'possibly')}
            chosen={finding}
            choose={choose}
          />
          {report.failed.length > 0 ? (
            <>
              <h2>Could not be looked at</h2>
              <ul className="findings">
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
          <Group title="Set aside" findings={aside} chosen={finding} choose={choose} />
          <h2>Proven fine</h2>
          <ul className="findings fine">
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
          {report.proven.length === 0 ? <p className="quiet small">Nothing is proven yet.</p> : null}
        </div>
      </section>
      {finding ? (
        <FindingDetail
          key={keyOf(finding)}
          finding={finding}
          rule={report.rules.find((one) => one.id === finding.rule)}
        />
      ) : rule ? (
        <RuleDetail rule={rule} proven={report.proven.find((one) => one.rule === rule.id)} />
      ) : (
        <section className="pane">
          <p className="quiet">
            Nothing is wrong that these checks look for. They run after each save; what they prove stands on
            the left.
          </p>
        </section>
      )}
    </main>
  )
}

function Summary({ report, open, aside }: { report: CheckReport; open: number; aside: number }) {
  const { running, finishedAt, milliseconds, rules } = report
  if (running)
    return (
      <span role="status">
        running, {running.done} of {running.total} …
      </span>
    )
  if (finishedAt === null) return <span role="status">not run yet</span>
  return (
    <span role="status">
      {rules.length} run at {new Date(finishedAt).toLocaleTimeString('en-GB')} in{' '}
      {formatMilliseconds(milliseconds)} · {plural(open, 'finding')}
      {aside > 0 ? ` · ${aside} set aside` : ''}
    </span>
  )
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
      <h2>{title}</h2>
      <ul className="findings">
        {findings.map((one) => (
          <li key={keyOf(one)}>
            <button
              aria-current={chosen && keyOf(chosen) === keyOf(one) ? 'true' : undefined}
              onClick={() => choose(keyOf(one))}
            >
              <i className={`mark ${one.aside ? 'off' : one.affects}`} aria-hidden="true" />
              <b>{one.title}</b>
              <code>{one.rule}</code>
              <span className="muted">
                {one.aside
                  ? `“${one.aside.reason}”, ${new Date(one.aside.at).toLocaleDateString('en-GB')}`
                  : one.detail}
              </span>
            </button>
          </li>
        ))}
      </ul>
    </>
  )
}
