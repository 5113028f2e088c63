/** One condition: a field, an operator and a value. */
import { Select } from 'antd'
import type { QueryPart } from '../../../../core/blog/edit-query.ts'
import type { FieldCondition, SourceName } from '../../../../core/shapes/schemas.ts'
import { conditionChoices, operatorChoices } from '../../../../core/queries/authoring/choices.ts'
import { findField } from '../../../../core/queries/fields.ts'
import { options, WIDE } from './choices.tsx'
import { words } from '../words.ts'
import { TypedText } from './typed-text.tsx'

const texts = words.builder

interface ConditionProps {
  source: SourceName
  condition: FieldCondition
  parameters: readonly string[]
  change(changes: Partial<Record<keyof FieldCondition, QueryPart | undefined>>): void
}

export function Condition({
  source,
  condition: { field, is, to, when },
  parameters,
  change,
}: ConditionProps) {
  const type = findField(source, field)?.field.type ?? 'text'
  const hasNoValue = is === 'set' || is === 'unset'
  const text = Array.isArray(to) ? to.join(', ') : to === undefined ? '' : String(to)
  const isParameter = text.startsWith(':')
  return (
    <>
      <Select
        {...WIDE}
        size="small"
        showSearch
        aria-label={texts.field}
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
        aria-label={texts.operator(field)}
        value={is}
        options={options(operatorChoices(source, field))}
        onChange={(value: FieldCondition['is']) => {
          const withoutValue = value === 'set' || value === 'unset'
          change({
            is: value,
            to: withoutValue ? undefined : valueOf(text, type, value === 'in'),
            ...(withoutValue ? { when: undefined } : {}),
          })
        }}
      />
      {hasNoValue ? null : (
        <TypedText
          className={isParameter ? 'mono parameter' : 'mono'}
          label={texts.value(field)}
          placeholder={type}
          value={text}
          offered={parameters.map((one) => `:${one}`)}
          change={(value) => change({ to: valueOf(value, type, is === 'in') })}
        />
      )}
      {isParameter ? (
        <Select
          size="small"
          aria-label={texts.whenAbsent(text)}
          popupMatchSelectWidth={false}
          value={when ?? 'always'}
          options={[
            { value: 'always', label: texts.always },
            { value: 'given', label: texts.given },
          ]}
          onChange={(value: string) => change({ when: value === 'given' ? 'given' : undefined })}
        />
      ) : null}
    </>
  )
}

/** Converts the typed text to a value of the field's type. A parameter stays a text. */
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
