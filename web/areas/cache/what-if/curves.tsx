/** Curves of two settings, by lifetime and by the size of the cache. */
import { CartesianGrid, Line, LineChart, ResponsiveContainer, Tooltip, XAxis, YAxis } from 'recharts'
import type { Curve } from '../../../../core/caching/what-if/simulate.ts'
import { words } from './words.ts'

const COLOURS = ['var(--cobalt)', 'var(--terracotta)'] as const
const tick = { fill: 'var(--muted)', fontSize: 12 }
const percent = (value: number) => `${Number((value * 100).toFixed(value < 0.1 ? 1 : 0))} %`

export function Curves({
  title,
  curves,
  value,
  unit,
  isLogarithmic = false,
}: {
  title: string
  /** Of each setting. */
  curves: readonly (readonly Curve[])[]
  value(curve: Curve): number
  unit(at: number): string
  isLogarithmic?: boolean
}) {
  const all = [...new Set(curves.flatMap((one) => one.map(({ at }) => at)))].sort((a, b) => a - b)
  const data = all.map((at) => ({
    at,
    ...Object.fromEntries(
      curves.flatMap((one, index) => {
        const point = one.find((curve) => curve.at === at)
        return point ? [[`v${index}`, value(point)]] : []
      }),
    ),
  }))
  return (
    <figure>
      <figcaption>{title}</figcaption>
      <ResponsiveContainer width="100%" height={150}>
        <LineChart data={data} margin={{ top: 6, right: 16, bottom: 0, left: 0 }} accessibilityLayer>
          <CartesianGrid stroke="var(--line-faint)" vertical={false} />
          <XAxis
            dataKey="at"
            type="number"
            scale={isLogarithmic ? 'log' : 'linear'}
            domain={['dataMin', 'dataMax']}
            tickFormatter={unit}
            tick={tick}
            stroke="var(--line)"
          />
          <YAxis domain={[0, 'auto']} tickFormatter={percent} tick={tick} stroke="var(--line)" width={48} />
          <Tooltip
            formatter={(shown, name) => [percent(Number(shown)), words.settings[name === 'v0' ? 0 : 1]]}
            labelFormatter={(at) => unit(Number(at))}
            contentStyle={{
              background: 'var(--paper)',
              border: '1px solid var(--line)',
              color: 'var(--ink)',
            }}
          />
          {curves.map((_, index) => (
            <Line
              key={index}
              dataKey={`v${index}`}
              stroke={COLOURS[index] ?? COLOURS[0]}
              strokeDasharray={index === 0 ? '0' : '5 4'}
              strokeWidth={2}
              dot={false}
              connectNulls
              isAnimationActive={false}
            />
          ))}
        </LineChart>
      </ResponsiveContainer>
    </figure>
  )
}
