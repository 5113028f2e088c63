/** Conditions that rows are kept by, and groups of them in each other. */
import { Button, Dropdown, Select } from 'antd'
import type { QueryPart } from '../../../../core/blog/edit-query.ts'
import { GROUPS_DEEP, type FieldCondition, type SourceName } from '../../../../core/shapes/schemas.ts'
import { conditionChoices, namedChoices } from '../../../../core/queries/authoring/choices.ts'
import { findField } from '../../../../core/queries/fields.ts'
import type { SetPart } from './choices.tsx'
import { Condition } from './condition.tsx'

interface ConditionsProps {
  source: SourceName
  /** What stands in the list, as far as it has been written. */
  written: unknown
  /** Where the list stands in the query. */
  path: readonly (string | number)[]
  set: SetPart
  given: readonly string[]
  /** How it is called, e.g. `2.1`; the list of the query itself has no name. */
  name?: string
  /** In how many groups it lies. */
  depth?: number
}

export function Conditions({ source, written, path, set, given, name = '', depth = 0 }: ConditionsProps) {
  const list: unknown[] = Array.isArray(written) ? written : []
  const add = (value: QueryPart) =>
    set(list.length === 0 ? [...path] : [...path, list.length], list.length === 0 ? [value] : value)
  return (
    <>
      {list.map((condition, at) => (
        <Row
          key={at}
          source={source}
          condition={condition}
          path={[...path, at]}
          whole={[...path, at]}
          set={set}
          given={given}
          name={`${name}${name === '' ? '' : '.'}${at + 1}`}
          depth={depth}
        />
      ))}
      <Add source={source} known={list} canGroup={depth < GROUPS_DEEP} name={name} add={add} />
    </>
  )
}

interface RowProps extends Omit<ConditionsProps, 'written' | 'name' | 'depth'> {
  condition: unknown
  /** What goes when it is taken out: with “not”, that too. */
  whole: readonly (string | number)[]
  name: string
  depth: number
}

/** A condition, or a group, with what can be done to it. */
function Row({ condition, path, whole, name, depth, ...more }: RowProps) {
  const { source, set, given } = more
  const isTurned = isNot(condition)
  if (isTurned && depth < GROUPS_DEEP)
    return (
      <div className="condition negated">
        <Button
          size="small"
          className="mono"
          title="keeps the rows that do not hold it; press to keep those that do"
          aria-label={`Condition ${name} without “not”`}
          onClick={() => set([...path], condition.not as QueryPart)}
        >
          not
        </Button>
        <Row
          {...more}
          condition={condition.not}
          path={[...path, 'not']}
          whole={whole}
          name={name}
          depth={depth + 1}
        />
      </div>
    )
  const group = groupOf(condition)
  const buttons = (
    <span className="ends">
      {depth < GROUPS_DEEP && path.at(-1) !== 'not' ? (
        <button
          className="link muted"
          aria-label={`Turn condition ${name} into its opposite`}
          title="keep the rows that do not hold it"
          onClick={() => set([...path], { not: condition as QueryPart })}
        >
          not
        </button>
      ) : null}
      <Button
        size="small"
        type="text"
        aria-label={`Take condition ${name} out`}
        onClick={() => set([...whole], undefined)}
      >
        ✕
      </Button>
    </span>
  )
  if (group && depth < GROUPS_DEEP)
    return (
      <div className="condition-group" role="group" aria-label={`Condition ${name}`}>
        <div className="condition">
          <Select
            size="small"
            aria-label={`How many of ${name} must hold`}
            popupMatchSelectWidth={false}
            value={group.kind}
            options={[
              { value: 'any', label: 'any of' },
              { value: 'all', label: 'all of' },
            ]}
            onChange={(value: 'any' | 'all') => set([...path], { [value]: group.list as QueryPart })}
          />
          {buttons}
        </div>
        <div className="conditions">
          <Conditions
            {...more}
            written={group.list}
            path={[...path, group.kind]}
            name={name}
            depth={depth + 1}
          />
        </div>
      </div>
    )
  return (
    <div className="condition">
      {typeof condition === 'string' ? (
        <>
          <code className="pill">{condition}</code>
          <span className="muted">{namedChoices(source).find((one) => one.value === condition)?.detail}</span>
        </>
      ) : isField(condition) ? (
        <Condition
          source={source}
          condition={condition}
          given={given}
          change={(changes) => {
            const next = Object.entries({ ...condition, ...changes }).filter(
              ([, value]) => value !== undefined,
            )
            set([...path], Object.fromEntries(next) as QueryPart)
          }}
        />
      ) : (
        <span className="muted">not understood: see the YAML</span>
      )}
      {buttons}
    </div>
  )
}

interface AddProps {
  source: SourceName
  known: readonly unknown[]
  canGroup: boolean
  name: string
  add(value: QueryPart): void
}

function Add({ source, known, canGroup, name, add }: AddProps) {
  const choices = conditionChoices(source).map((one) => one.value)
  // What a text is compared with may still be empty.
  const field = choices.find((one) => findField(source, one)?.field.type === 'text') ?? choices[0] ?? 'id'
  const fresh = { field, is: 'equal', to: '' }
  const made: Record<string, QueryPart> = {
    '+': fresh,
    '+any': { any: [fresh] },
    '+all': { all: [fresh] },
  }
  return (
    <Dropdown
      trigger={['click']}
      menu={{
        items: [
          ...namedChoices(source)
            .filter((one) => !known.includes(one.value))
            .map((one) => ({
              key: one.value,
              label: (
                <>
                  {one.value} <span className="muted">{one.detail}</span>
                </>
              ),
            })),
          { key: '+', label: 'compare a field …' },
          ...(canGroup
            ? [
                { key: '+any', label: 'any of several …' },
                { key: '+all', label: 'all of several …' },
              ]
            : []),
        ],
        onClick: ({ key }) => add(made[key] ?? key),
      }}
    >
      <Button size="small" aria-label={name === '' ? undefined : `Add a condition to ${name}`}>
        {name === '' ? 'Add a condition' : 'Add one'}
      </Button>
    </Dropdown>
  )
}

const isMap = (value: unknown): value is Record<string, unknown> =>
  typeof value === 'object' && value !== null

const isField = (condition: unknown): condition is FieldCondition =>
  isMap(condition) && typeof condition['field'] === 'string'

const isNot = (condition: unknown): condition is { not: unknown } => isMap(condition) && 'not' in condition

function groupOf(condition: unknown): { kind: 'any' | 'all'; list: unknown } | undefined {
  if (!isMap(condition)) return undefined
  if ('any' in condition) return { kind: 'any', list: condition['any'] }
  return 'all' in condition ? { kind: 'all', list: condition['all'] } : undefined
}
