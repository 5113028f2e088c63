/** What rows are ordered by, one field after the other. */
import { Button, Select } from 'antd'
import type { SourceName } from '../../../../core/shapes/schemas.ts'
import { orderChoices, type Choice } from '../../../../core/queries/authoring/choices.ts'
import { options, WIDE } from './choices.tsx'

interface OrderProps {
  source: SourceName
  order: readonly string[]
  counts: readonly string[]
  change(order: string[]): void
}

export function Order({ source, order, counts, change }: OrderProps) {
  const choices: Choice[] =
    counts.length > 0
      ? [{ value: 'count', detail: 'how many' }, ...counts.map((value) => ({ value, detail: '' }))]
      : orderChoices(source)
  const replace = (at: number, text: string | undefined) =>
    change(order.flatMap((one, index) => (index === at ? (text ?? []) : one)))
  const fresh = choices.find((one) => !order.some((other) => other.replace(/^-/, '') === one.value))
  return (
    <>
      {order.map((text, at) => {
        const descending = text.startsWith('-')
        const field = text.replace(/^-/, '')
        return (
          <span key={at} className="condition">
            {at > 0 ? <span className="muted">then</span> : null}
            <Select
              {...WIDE}
              size="small"
              showSearch
              className="mono"
              aria-label={`Order ${at + 1}`}
              value={field}
              options={options(choices)}
              onChange={(value: string) => replace(at, `${descending ? '-' : ''}${value}`)}
            />
            <Button
              size="small"
              aria-label={descending ? `${field}: largest first` : `${field}: smallest first`}
              title={descending ? 'largest, or newest, first' : 'smallest, or oldest, first'}
              onClick={() => replace(at, descending ? field : `-${field}`)}
            >
              {descending ? '↓' : '↑'}
            </Button>
            <Button
              size="small"
              type="text"
              aria-label={`Take order ${at + 1} out`}
              onClick={() => replace(at, undefined)}
            >
              ✕
            </Button>
          </span>
        )
      })}
      {fresh ? (
        <Button size="small" onClick={() => change([...order, fresh.value])}>
          {order.length === 0 ? 'Order by …' : 'Then by …'}
        </Button>
      ) : null}
    </>
  )
}
