/** The fields of which the form of the comment rules is made. */
import { Select } from 'antd'
import type { ReactNode } from 'react'
import type { CommentRules } from '../../../core/shapes/comment-rules.ts'

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
