/** What copies would do: the traffic, two settings side by side, and curves. */
import { InputNumber, Segmented, Select } from 'antd'
import { useState } from 'react'
import { REFRESH_MODES } from '../../../../core/shapes/cache-rules.ts'
import type { WhatIfResult } from '../../../../core/caching/what-if/simulate.ts'
import type { RuleItem } from '../../../../contract/cache.ts'
import { useRead } from '../../../api/queries.ts'
import { formatBytes, formatMilliseconds, formatSpan } from '../../../shared/words/format.ts'
import { words as area } from '../words.ts'
import { Curves } from './curves.tsx'
import { recentTraffic, whatIf, type Setting, type Traffic } from './settings.ts'
import { useWhatIf } from './use-what-if.ts'
import { words } from './words.ts'
import './what-if.css'

const FIRST: Traffic = {
  source: 'zipf',
  pages: 100,
  exponent: 0.9,
  perMinute: 120,
  editsPerHour: 6,
  commentsPerHour: 6,
}
const SETTINGS: readonly [Setting, Setting] = [
  { refresh: 'on-change', lifetime: 60, sizePercent: 100 },
  { refresh: 'by-age', lifetime: 60, sizePercent: 100 },
]
/** What a page takes where nothing was measured yet. */
const USUAL = { renderMilliseconds: 10, copyBytes: 30_000 }

const percent = (value: number) => `${(value * 100).toFixed(value > 0 && value < 0.01 ? 2 : 1)} %`
const FIGURES: readonly [keyof WhatIfResult, (value: number) => string][] = [
  ['hitShare', percent],
  ['renders', (value) => value.toFixed(2)],
  ['load', percent],
  ['staleShare', percent],
  ['staleMean', (value) => formatSpan(value * 1_000)],
  ['staleLongest', (value) => formatSpan(value * 1_000)],
  ['bytes', formatBytes],
]

/** Returns what a page takes on average, as it was measured. */
function measuredOf(rules: readonly RuleItem[]) {
  const pages = rules.filter((one) => one.kind === 'page')
  const timed = pages.flatMap((one) => one.savedMilliseconds ?? [])
  const copies = pages.reduce((sum, one) => sum + one.copies, 0)
  return {
    renderMilliseconds:
      timed.length === 0 ? USUAL.renderMilliseconds : timed.reduce((sum, one) => sum + one, 0) / timed.length,
    copyBytes:
      copies === 0
        ? USUAL.copyBytes
        : Math.round((2 * pages.reduce((sum, one) => sum + one.bytes, 0)) / copies),
  }
}

export function WhatIf({ rules }: { rules: readonly RuleItem[] }) {
  const requests = useRead('GET /api/traffic', {})
  const recent = recentTraffic(requests.data ?? [])
  const [traffic, setTraffic] = useState(FIRST)
  const [settings, setSettings] = useState(SETTINGS)
  const measured = measuredOf(rules)
  const [rounded] = useState(measured)
  const asked = settings.map((one) => whatIf(traffic, one, recent, rounded))
  const { answers, isPending } = useWhatIf(asked)
  const set = (changes: Partial<Traffic>) => setTraffic({ ...traffic, ...changes })
  const change = (index: number, changes: Partial<Setting>) =>
    setSettings((known) => [
      index === 0 ? { ...known[0], ...changes } : known[0],
      index === 1 ? { ...known[1], ...changes } : known[1],
    ])
  return (
    <div className="scroll what-if">
      <div className="traffic">
        <Segmented
          size="small"
          aria-label={words.traffic}
          value={traffic.source}
          onChange={(source: Traffic['source']) => set({ source })}
          options={[
            { value: 'zipf', label: words.sources.zipf },
            { value: 'recent', label: words.sources.recent, disabled: recent === undefined },
          ]}
        />
        {traffic.source === 'zipf' || !recent ? (
          <>
            <Amount label={words.pages} value={traffic.pages} most={5_000} set={(pages) => set({ pages })} />
            <Amount
              label={words.exponent}
              title={words.exponentHelp}
              value={traffic.exponent}
              least={0}
              most={3}
              step={0.1}
              set={(exponent) => set({ exponent })}
            />
            <Amount
              label={words.perMinute}
              value={traffic.perMinute}
              most={1e6}
              set={(perMinute) => set({ perMinute })}
            />
          </>
        ) : (
          <span className="muted">{words.recent(recent.shares.length, recent.perMinute.toFixed(1))}</span>
        )}
        <Amount
          label={words.edits}
          title={words.editsHelp}
          value={traffic.editsPerHour}
          least={0}
          most={1e5}
          set={(editsPerHour) => set({ editsPerHour })}
        />
        <Amount
          label={words.comments}
          title={words.commentsHelp}
          value={traffic.commentsPerHour}
          least={0}
          most={1e5}
          set={(commentsPerHour) => set({ commentsPerHour })}
        />
      </div>
      <table className="sides" aria-busy={isPending}>
        <thead>
          <tr>
            <td />
            {words.settings.map((one, index) => (
              <th key={one} scope="col" className={index === 0 ? 'a' : 'b'}>
                {one}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          <tr>
            <th scope="row">{words.refresh}</th>
            {settings.map(({ refresh }, index) => (
              <td key={index}>
                <Select
                  size="small"
                  aria-label={`${words.settings[index]}: ${words.refresh}`}
                  value={refresh}
                  onChange={(one) => change(index, { refresh: one })}
                  options={REFRESH_MODES.map((value) => ({ value, label: area.rule.modes[value] }))}
                />
              </td>
            ))}
          </tr>
          <tr>
            <th scope="row">{words.lifetime}</th>
            {settings.map(({ lifetime, refresh }, index) => (
              <td key={index}>
                <InputNumber
                  size="small"
                  aria-label={`${words.settings[index]}: ${words.lifetime}`}
                  min={1}
                  max={31_622_400}
                  disabled={refresh === 'on-change'}
                  value={lifetime}
                  onChange={(one) => change(index, { lifetime: one ?? lifetime })}
                />
              </td>
            ))}
          </tr>
          <tr>
            <th scope="row">{words.size}</th>
            {settings.map(({ sizePercent }, index) => (
              <td key={index}>
                <InputNumber
                  size="small"
                  aria-label={`${words.settings[index]}: ${words.size}`}
                  min={1}
                  max={100}
                  value={sizePercent}
                  onChange={(one) => change(index, { sizePercent: one ?? sizePercent })}
                />{' '}
                {words.sizeUnit}
              </td>
            ))}
          </tr>
          {FIGURES.map(([name, format]) => (
            <tr key={name}>
              <th scope="row">{words.figures[name]}</th>
              {settings.map((_, index) => {
                const value = answers[index]?.result[name]
                return (
                  <td
                    key={index}
                    className={name.startsWith('stale') && (value ?? 0) > 0 ? 'figure bad' : 'figure'}
                  >
                    {value === undefined ? '' : format(value)}
                  </td>
                )
              })}
            </tr>
          ))}
        </tbody>
      </table>
      {answers.length > 0 ? (
        <div className="curves">
          <Curves
            title={words.curves.byLifetime}
            curves={answers.map((one) => one.byLifetime)}
            value={(one) => one.result.hitShare}
            unit={words.curves.seconds}
            isLogarithmic
          />
          <Curves
            title={words.curves.stale}
            curves={answers.map((one) => one.byLifetime)}
            value={(one) => one.result.staleShare}
            unit={words.curves.seconds}
            isLogarithmic
          />
          <Curves
            title={words.curves.bySize}
            curves={answers.map((one) => one.bySize)}
            value={(one) => one.result.hitShare}
            unit={words.curves.copies}
          />
        </div>
      ) : null}
      <p className="legend muted">
        {words.how(
          (asked[0]?.requests ?? 0).toLocaleString('en-GB'),
          formatMilliseconds(rounded.renderMilliseconds),
          formatBytes(rounded.copyBytes),
        )}
      </p>
    </div>
  )
}

function Amount({
  label,
  title,
  value,
  least = 1,
  most,
  step = 1,
  set,
}: {
  label: string
  title?: string
  value: number
  least?: number
  most: number
  step?: number
  set(value: number): void
}) {
  return (
    <label title={title}>
      <span className="muted">{label}</span>
      <InputNumber
        size="small"
        min={least}
        max={most}
        step={step}
        value={value}
        onChange={(one) => set(one ?? value)}
      />
    </label>
  )
}
