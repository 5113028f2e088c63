/** The conditions of a query, and nested groups of them. */
import { Button, Dropdown, Select } from 'antd'
import type { QueryPart } from '../../../../core/blog/edit-query.ts'
import { GROUPS_DEEP, type FieldCondition, type SourceName } from '../../../../core/shapes/schemas.ts'
import { conditionChoices, namedChoices } from '../../../../core/queries/authoring/choices.ts'
import { findField } from '../../../../core/queries/fields.ts'
import type { SetPart } from './choices.tsx'
import { words } from '../words.ts'
import { Condition } from './condition.tsx'

const texts = words.builder

interface ConditionsProps {
  source: SourceName
  /** The list as it is in the text; it need not be valid. */
  conditions: unknown
  /** The place of the list in the query. */
  path: readonly (string | number)[]
  set: SetPart
  /** Names of parameters to offer. */
  parameters: readonly string[]
  /** Name of the group, e.g. `2.1`; the query's own list has none. */
  name?: string
  /** How many groups it is inside of. */
  depth?: number
}

export function Conditions({
  source,
  conditions,
  path,
  set,
  parameters,
  name = '',
  depth = 0,
}: ConditionsProps) {
  const list: unknown[] = Array.isArray(conditions) ? conditions : []
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
          removed={[...path, at]}
          set={set}
          parameters={parameters}
          name={`${name}${name === '' ? '' : '.'}${at + 1}`}
          depth={depth}
        />
      ))}
      <Add source={source} known={list} canGroup={depth < GROUPS_DEEP} name={name} add={add} />
    </>
  )
}

interface RowProps extends Omit<ConditionsProps, 'conditions' | 'name' | 'depth'> {
  condition: unknown
  /** The place that is removed with it: a “not” around it, too. */
  removed: readonly (string | number)[]
  name: string
  depth: number
}

/** A condition or a group, with its buttons. */
function Row({ condition, path, removed, name, depth, ...more }: RowProps) {
  const { source, set, parameters } = more
  if (isNot(condition) && depth < GROUPS_DEEP)
    return (
      <div className="condition negated">
        <Button
          size="small"
          className="mono"
          title={texts.notHint}
          aria-label={texts.withoutNot(name)}
          onClick={() => set([...path], condition.not as QueryPart)}
        >
          {texts.not}
        </Button>
        <Row
          {...more}
          condition={condition.not}
          path={[...path, 'not']}
          removed={removed}
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
          aria-label={texts.negate(name)}
          title={texts.negateHint}
          onClick={() => set([...path], { not: condition as QueryPart })}
        >
          {texts.not}
        </button>
      ) : null}
      <Button
        size="small"
        type="text"
        aria-label={texts.remove(name)}
        onClick={() => set([...removed], undefined)}
      >
        ✕
      </Button>
    </span>
  )
  if (group && depth < GROUPS_DEEP)
    return (
      <div className="condition-group" role="group" aria-label={texts.condition(name)}>
        <div className="condition">
          <Select
            size="small"
            aria-label={texts.group(name)}
            popupMatchSelectWidth={false}
            value={group.kind}
            options={[
              { value: 'any', label: texts.anyOf },
              { value: 'all', label: texts.allOf },
            ]}
            onChange={(value: 'any' | 'all') => set([...path], { [value]: group.list as QueryPart })}
          />
          {buttons}
        </div>
        <div className="conditions">
          <Conditions
            {...more}
            conditions={group.list}
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
          parameters={parameters}
          change={(changes) => {
            const next = Object.entries({ ...condition, ...changes }).filter(
              ([, value]) => value !== undefined,
            )
            set([...path], Object.fromEntries(next) as QueryPart)
          }}
        />
      ) : (
        <span className="muted">{texts.notUnderstood}</span>
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
  // A text may be compared with an empty value, so the new condition is valid.
  const field = choices.find((one) => findField(source, one)?.field.type === 'text') ?? choices[0] ?? 'id'
  const fresh = { field, is: 'equal', to: '' }
  const added: Record<string, QueryPart> = {
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
          { key: '+', label: texts.compare },
          ...(canGroup
            ? [
                { key: '+any', label: texts.anyGroup },
                { key: '+all', label: texts.allGroup },
              ]
            : []),
        ],
        onClick: ({ key }) => add(added[key] ?? key),
      }}
    >
      <Button size="small" aria-label={name === '' ? undefined : texts.addTo(name)}>
        {texts.add}
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
