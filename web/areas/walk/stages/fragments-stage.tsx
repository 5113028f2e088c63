/** The fragments of the page: hit or miss, age, and dependencies. */
import { Checkbox } from 'antd'
import { useState } from 'react'
import type { WalkFragment, WalkRecord } from '../../../../contract/walk-record.ts'
import { Chip, type Tone } from '../../../shared/marks/marks.tsx'
import { formatBytes, formatSpan } from '../../../shared/words/format.ts'
import type { StageTools } from './stage-tools.ts'
import { words as shared } from '../../../shared/words/words.ts'
import { words } from '../words.ts'

const text = words.fragments

/** How many dependencies are listed; all of them are in the tooltip. */
const TAGS_SHOWN = 5

const TONE: Record<WalkFragment['outcome'], Tone> = { hit: 'fine', miss: 'plain', bypass: 'look' }

export function FragmentsStage({ record, tools }: { record: WalkRecord; tools: StageTools }) {
  const groups = new Map<string, WalkFragment[]>()
  for (const fragment of record.fragments)
    groups.set(fragment.name, [...(groups.get(fragment.name) ?? []), fragment])
  const copy = record.copy === null ? null : <p className="reason">{record.copy}</p>
  if (groups.size === 0)
    return (
      <>
        {copy}
        <p className="reason">
          {record.failure ? text.notReached : record.templates.page === null ? text.noPage : text.none}
        </p>
      </>
    )
  const { isOn, change } = tools.kept
  return (
    <>
      {copy}
      {record.as === 'reader' ? (
        <Checkbox checked={isOn} onChange={(event) => change(event.target.checked)}>
          {text.useStored}
        </Checkbox>
      ) : null}
      {[...groups].map(([name, fragments]) => (
        <Group key={name} name={name} fragments={fragments} tools={tools} />
      ))}
    </>
  )
}

function Group({ name, fragments, tools }: { name: string; fragments: WalkFragment[]; tools: StageTools }) {
  const [open, setOpen] = useState(false)
  const outcomes = (['hit', 'miss', 'bypass'] as const)
    .map((outcome) => ({ outcome, count: fragments.filter((one) => one.outcome === outcome).length }))
    .filter((one) => one.count > 0)
  const [first] = fragments
  if (!first) return null
  const left = Math.min(...fragments.map((one) => one.remainingMilliseconds))
  const oldest = Math.max(...fragments.map((one) => one.ageMilliseconds))
  const notStored = fragments.filter((one) => one.outcome === 'miss' && !one.stored).length
  return (
    <div className="fragment">
      <div className="row">
        <button
          className="name mono"
          onClick={() => tools.open(`templates/${first.file}.liquid`, first.line)}
          title={text.open(`templates/${first.file}.liquid`, first.line)}
        >
          {name}
        </button>
        {fragments.length > 1 ? <span className="muted">×{fragments.length}</span> : null}
        {outcomes.map(({ outcome, count }) => (
          <Chip key={outcome} tone={TONE[outcome]}>
            {fragments.length > 1 && outcomes.length > 1 ? `${count} ${outcome}` : outcome}
          </Chip>
        ))}
        <span className="muted">
          {first.outcome === 'bypass'
            ? text.bypassed
            : [
                oldest > 0 ? text.age(formatSpan(oldest)) : text.fresh,
                text.remaining(formatSpan(left), formatSpan(first.lifetimeMilliseconds)),
                ...(notStored > 0 ? [text.notStored(notStored)] : []),
              ].join(', ')}
        </span>
        <span className="grow" />
        <button className="link" aria-expanded={open} onClick={() => setOpen(!open)}>
          {open ? shared.hide : text.details}
        </button>
      </div>
      {open ? (
        <table className="copies">
          <thead>
            <tr>
              <th>{text.key}</th>
              <th>{text.dependsOn}</th>
              <th className="number">{text.size}</th>
            </tr>
          </thead>
          <tbody>
            {fragments.map((one) => (
              <tr key={one.key}>
                <td>
                  <code>{one.key}</code>
                </td>
                <td title={one.dependsOn.join('\n')}>
                  {one.dependsOn.length === 0
                    ? text.noDependencies
                    : one.dependsOn.length > TAGS_SHOWN + 1
                      ? `${one.dependsOn.slice(0, TAGS_SHOWN).join(', ')} ${text.more(one.dependsOn.length - TAGS_SHOWN)}`
                      : one.dependsOn.join(', ')}
                </td>
                <td className="number">{formatBytes(one.bytes)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      ) : null}
    </div>
  )
}
