/** The fields of which the form of the comment rules is made. */
import { Input, InputNumber, Select } from 'antd'
import type { ReactNode } from 'react'
import type { CommentRules } from '../../../core/shapes/comment-rules.ts'
import { words } from './rules-words.ts'

export interface RulesProps {
  rules: CommentRules
  /** undefined: the rule is not declared any more. */
  set(changes: Partial<{ [Key in keyof CommentRules]: CommentRules[Key] | undefined }>): void
}

export const Line = ({ label, children }: { label: string; children: ReactNode }) => (
  <div className="line-of">
    <span>{label}</span>
    {children}
  </div>
)

export function Choice<Value extends string>({
  label,
  value,
  options,
  set,
}: {
  label: string
  value: Value
  options: readonly (readonly [Value, string])[]
  set(value: Value): void
}) {
  return (
    <Select
      size="small"
      aria-label={label}
      value={value}
      options={options.map(([one, text]) => ({ value: one, label: text }))}
      popupMatchSelectWidth={false}
      onChange={set}
    />
  )
}

/** An e-mail address, or none. */
export function Address({
  label,
  value,
  placeholder,
  set,
}: {
  label: string
  value: string | undefined
  placeholder: string
  set(value: string | undefined): void
}) {
  return (
    <Line label={label}>
      <Input
        size="small"
        type="email"
        aria-label={label}
        placeholder={placeholder}
        value={value ?? ''}
        onChange={(event) => set(event.target.value.trim() || undefined)}
      />
    </Line>
  )
}

/** Chooses a duration. One that was typed in YAML is among the choices. */
export function Span({
  label,
  value,
  options,
  none,
  set,
}: {
  label: string
  value: string | undefined
  options: readonly string[]
  none?: string
  set(value: string | undefined): void
}) {
  const all = value === undefined || options.includes(value) ? options : [value, ...options]
  return (
    <Select
      size="small"
      aria-label={label}
      value={value ?? ''}
      options={[
        ...(none === undefined ? [] : [{ value: '', label: none }]),
        ...all.map((one) => ({ value: one, label: words.spans[one] ?? one })),
      ]}
      popupMatchSelectWidth={false}
      onChange={(chosen: string) => set(chosen === '' ? undefined : chosen)}
    />
  )
}

/** A whole number within limits. */
export function Count({
  label,
  value,
  min = 0,
  max,
  set,
}: {
  label: string
  value: number
  min?: number
  max: number
  set(value: number): void
}) {
  return (
    <Line label={label}>
      <InputNumber
        size="small"
        aria-label={label}
        value={value}
        min={min}
        max={max}
        precision={0}
        onChange={(typed) => typed !== null && set(typed)}
      />
    </Line>
  )
}
