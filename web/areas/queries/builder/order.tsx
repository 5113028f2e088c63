/** The order of rows, field by field. */
import { Button, Select } from 'antd'
import type { SourceName } from '../../../../core/shapes/schemas.ts'
import { orderChoices, type Choice } from '../../../../core/queries/authoring/choices.ts'
import { words } from '../words.ts'
import { options, WIDE } from './choices.tsx'

const texts = words.builder

interface OrderProps {
  source: SourceName
  order: readonly string[]
  counts: readonly string[]
  change(order: string[]): void
}

export function Order({ source, order, counts, change }: OrderProps) {
  const choices: Choice[] =
    counts.length > 0
      ? [{ value: 'count', detail: texts.count }, ...counts.map((value) => ({ value, detail: '' }))]
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
            {at > 0 ? <span className="muted">{texts.then}</span> : null}
            <Select
              {...WIDE}
              size="small"
              showSearch
              className="mono"
              aria-label={texts.orderKey(at + 1)}
              value={field}
              options={options(choices)}
              onChange={(value: string) => replace(at, `${descending ? '-' : ''}${value}`)}
            />
            <Button
              size="small"
              aria-label={descending ? texts.descending(field) : texts.ascending(field)}
              title={descending ? texts.descendingHint : texts.ascendingHint}
              onClick={() => replace(at, descending ? field : `-${field}`)}
            >
              {descending ? '↓' : '↑'}
            </Button>
            <Button
              size="small"
              type="text"
              aria-label={texts.removeOrder(at + 1)}
              onClick={() => replace(at, undefined)}
            >
              ✕
            </Button>
          </span>
        )
      })}
      {fresh ? (
        <Button size="small" onClick={() => change([...order, fresh.value])}>
          {order.length === 0 ? texts.orderBy : texts.thenBy}
        </Button>
      ) : null}
    </>
  )
}
