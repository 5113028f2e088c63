/** Kept parts of the page: where each came from, how old it is and what it depends on. */
import { useState } from 'react'
import type { WalkFragment, WalkRecord } from '../../../../contract/operations.ts'
import { Chip, type Tone } from '../../../shared/marks/marks.tsx'
import { formatBytes, formatSpan, plural } from '../../../shared/words/words.ts'
import type { StageTools } from './stage-tools.ts'

const TONE: Record<WalkFragment['outcome'], Tone> = { hit: 'fine', miss: 'plain', bypass: 'look' }

export function FragmentsStage({ record, tools }: { record: WalkRecord; tools: StageTools }) {
  const groups = new Map<string, WalkFragment[]>()
  for (const fragment of record.fragments)
    groups.set(fragment.name, [...(groups.get(fragment.name) ?? []), fragment])
  if (groups.size === 0)
    return (
      <p className="reason">
        {record.failure
          ? 'Not reached: the request failed before.'
          : record.templates.page === null
            ? 'No page was rendered.'
            : 'This page keeps no part of itself.'}
      </p>
    )
  return [...groups].map(([name, fragments]) => (
    <Group key={name} name={name} fragments={fragments} tools={tools} />
  ))
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
  const unkept = fragments.filter((one) => one.outcome === 'miss' && !one.stored).length
  return (
    <div className="fragment">
      <div className="row">
        <button
          className="name mono"
          onClick={() => tools.open(`templates/${first.file}.liquid`, first.line)}
          title={`Open templates/${first.file}.liquid at line ${first.line}`}
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
            ? 'made for the author, not kept'
            : `${oldest > 0 ? `${formatSpan(oldest)} old, ` : 'made just now, '}${formatSpan(left)} left of ${formatSpan(first.lifetimeMilliseconds)}`}
          {unkept > 0 ? `; ${unkept} could not be kept, their data changed meanwhile` : ''}
        </span>
        <span className="grow" />
        <button className="link" aria-expanded={open} onClick={() => setOpen(!open)}>
          {open ? 'hide' : 'keys, what they depend on'}
        </button>
      </div>
      {open ? (
        <table className="copies">
          <thead>
            <tr>
              <th>Key</th>
              <th>Depends on</th>
              <th className="number">Size</th>
            </tr>
          </thead>
          <tbody>
            {fragments.map((one) => (
              <tr key={one.key}>
                <td>
                  <code>{one.key}</code>
                </td>
                <td title={one.tags.join('\n')}>
                  {one.tags.length === 0
                    ? 'nothing that changes'
                    : one.tags.length > 6
                      ? `${one.tags.slice(0, 5).join(', ')} and ${plural(one.tags.length - 5, 'more', 'more')}`
                      : one.tags.join(', ')}
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
