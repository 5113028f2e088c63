/** Chart of a query's times by the number of posts, with logarithmic axes. It is loaded when it is shown. */
import { CartesianGrid, Line, LineChart, ResponsiveContainer, Tooltip, XAxis, YAxis } from 'recharts'
import type { GrowthResult } from '../../../contract/growth-result.ts'
import { linesOf, timeOf, type GrowthLine } from './growth-lines.ts'
import { formatMilliseconds } from '../../shared/words/format.ts'
import { words } from './words.ts'

const text = words.growth

const sizeText = (size: number) => (size >= 1_000_000 ? `${size / 1_000_000} M` : `${size / 1_000} k`)

/** The colour stands for the kind of pages, the dash for the page, the dots for the index. */
const strokeOf = ({ by }: GrowthLine) => (by === 'cursor' ? 'var(--cobalt)' : 'var(--terracotta)')
const dashOf = ({ page }: GrowthLine) => (page === 'first' ? '5 4' : page === 'middle' ? '2 3' : '0')

/** Returns the powers of ten around the measured values. */
function ticksOf(values: readonly number[]): number[] {
  const from = Math.floor(Math.log10(Math.max(0.01, Math.min(...values))))
  const to = Math.ceil(Math.log10(Math.max(0.1, ...values)))
  return Array.from({ length: to - from + 1 }, (_, at) => 10 ** (from + at))
}

export function GrowthChart({ result }: { result: GrowthResult }) {
  const lines = linesOf(result)
  const data = result.sizes.map((size) =>
    Object.fromEntries([['size', size], ...lines.map((line) => [line.name, timeOf(result, line, size)])]),
  )
  const ticks = ticksOf(result.measured.map((one) => one.milliseconds))
  const tick = { fill: 'var(--muted)', fontSize: 12 }
  return (
    <>
      <ResponsiveContainer width="100%" height={190}>
        <LineChart data={data} margin={{ top: 8, right: 22, bottom: 4, left: 6 }} accessibilityLayer>
          <CartesianGrid stroke="var(--line-faint)" vertical={false} />
          <XAxis
            dataKey="size"
            type="number"
            scale="log"
            domain={['dataMin', 'dataMax']}
            ticks={result.sizes}
            tickFormatter={sizeText}
            tick={tick}
            stroke="var(--line)"
          />
          <YAxis
            type="number"
            scale="log"
            domain={[ticks[0] ?? 0.1, ticks.at(-1) ?? 1000]}
            ticks={ticks}
            tickFormatter={(value: number) => (value >= 1000 ? `${value / 1000} s` : `${value} ms`)}
            tick={tick}
            stroke="var(--line)"
            width={58}
          />
          <Tooltip
            formatter={(value) => formatMilliseconds(Number(value))}
            labelFormatter={(size) => text.axis(Number(size))}
            contentStyle={{
              background: 'var(--paper)',
              border: '1px solid var(--line)',
              color: 'var(--ink)',
              fontSize: 12.5,
            }}
          />
          {lines.map((line) => (
            <Line
              key={line.name}
              dataKey={line.name}
              stroke={strokeOf(line)}
              strokeWidth={line.index === null ? 1.6 : 2.4}
              strokeDasharray={dashOf(line)}
              dot={{
                r: line.index === null ? 2.5 : 4,
                fill: line.index === null ? strokeOf(line) : 'var(--paper)',
              }}
              isAnimationActive={false}
            />
          ))}
        </LineChart>
      </ResponsiveContainer>
      <Legend lines={lines} />
    </>
  )
}

/** Explains colours, dashes and dots separately, because lines combine them. */
function Legend({ lines }: { lines: readonly GrowthLine[] }) {
  const paged = lines.filter((one) => one.by !== 'whole')
  const keys = [
    {
      name: text.byNumber,
      is: lines.find((one) => one.by === 'number'),
      of: { colour: 'var(--terracotta)' },
    },
    { name: text.byCursor, is: lines.find((one) => one.by === 'cursor'), of: { colour: 'var(--cobalt)' } },
    { name: text.whole, is: lines.find((one) => one.by === 'whole'), of: { colour: 'var(--terracotta)' } },
    { name: text.firstPage, is: paged.find((one) => one.page === 'first'), of: { dash: '5 4' } },
    { name: text.lastPage, is: paged.find((one) => one.page === 'last'), of: {} },
    { name: text.withIndex, is: lines.find((one) => one.index !== null), of: { open: true } },
  ]
  return (
    <ul className="keys" aria-label={text.legend}>
      {keys
        .filter((one) => one.is)
        .map(({ name, of: { colour = 'var(--muted)', dash, open } }) => (
          <li key={name}>
            <svg width="26" height="10" aria-hidden="true" style={{ color: colour }}>
              <line
                x1="0"
                x2="26"
                y1="5"
                y2="5"
                stroke="currentColor"
                strokeWidth={open ? 2.4 : 1.8}
                strokeDasharray={dash}
              />
              {open ? (
                <circle cx="13" cy="5" r="3.6" fill="var(--paper)" stroke="currentColor" strokeWidth="1.8" />
              ) : null}
            </svg>
            {name}
          </li>
        ))}
    </ul>
  )
}
