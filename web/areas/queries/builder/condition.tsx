/** One condition: a field, how it is compared, and with what. */
import { Select } from 'antd'
import type { QueryPart } from '../../../../core/blog/edit-query.ts'
import type { FieldCondition, SourceName } from '../../../../core/shapes/schemas.ts'
import { conditionChoices, operatorChoices } from '../../../../core/queries/authoring/choices.ts'
import { findField } from '../../../../core/queries/fields.ts'
import { options, WIDE } from './choices.tsx'
import { TypedText } from './typed-text.tsx'

interface ConditionProps {
  source: SourceName
  condition: FieldCondition
  given: readonly string[]
  change(changes: Partial<Record<keyof FieldCondition, QueryPart | undefined>>): void
}

export function Condition({ source, condition: { field, is, to, when }, given, change }: ConditionProps) {
  const type = findField(source, field)?.field.type ?? 'text'
  const needsNone = is === 'set' || is === 'unset'
  const text = Array.isArray(to) ? to.join(', ') : to === undefined ? '' : String(to)
  const isParameter = text.startsWith(':')
  return (
    <>
      <Select
        {...WIDE}
        size="small"
        showSearch
        aria-label="Field"
        className="mono"
        value={field}
        options={options(conditionChoices(source))}
        onChange={(value: string) => {
          const allowed = operatorChoices(source, value).map((one) => one.value)
          const operator = allowed.includes(is) ? is : (allowed[0] ?? 'equal')
          change({ field: value, is: operator })
        }}
      />
      <Select
        {...WIDE}
        size="small"
        aria-label={`How ${field} is compared`}
        value={is}
        options={options(operatorChoices(source, field))}
        onChange={(value: FieldCondition['is']) => {
          const isNone = value === 'set' || value === 'unset'
          change({
            is: value,
            to: isNone ? undefined : valueOf(text, type, value === 'in'),
            ...(isNone ? { when: undefined } : {}),
          })
        }}
      />
      {needsNone ? null : (
        <TypedText
          className={isParameter ? 'mono parameter' : 'mono'}
          label={`What ${field} is compared with`}
          placeholder={type}
          value={text}
          offered={given.map((one) => `:${one}`)}
          change={(value) => change({ to: valueOf(value, type, is === 'in') })}
        />
      )}
      {isParameter ? (
        <Select
          size="small"
          aria-label={`When ${text} is not given`}
          popupMatchSelectWidth={false}
          value={when ?? 'always'}
          options={[
            { value: 'always', label: 'always' },
            { value: 'given', label: 'when given' },
          ]}
          onChange={(value: string) => change({ when: value === 'given' ? 'given' : undefined })}
        />
      ) : null}
    </>
  )
}

/** What was typed, by the type of the field; a parameter stays one. */
function valueOf(text: string, type: string, isList: boolean): QueryPart {
  const one = (part: string): QueryPart => {
    const trimmed = part.trim()
    if (trimmed.startsWith(':')) return trimmed
    if (type === 'integer' && /^-?\d+$/.test(trimmed)) return Number(trimmed)
    if (type === 'boolean' && /^(true|false)$/.test(trimmed)) return trimmed === 'true'
    return isList ? trimmed : part
  }
  return isList ? text.split(',').map(one) : one(text)
}
