/** A query's parts as controls, beside its YAML: both are the same text, and what is not known here stays as it is. */
import { AutoComplete, Button, Dropdown, InputNumber, Select } from 'antd'
import type { ReactNode } from 'react'
import { parseDocument } from 'yaml'
import { changeQuery, type QueryPart } from '../../../core/definition/edit-query.ts'
import { SOURCES, type FieldCondition, type SourceName } from '../../../core/definition/schemas.ts'
import {
  conditionChoices,
  countByChoices,
  emptyChoices,
  namedChoices,
  operatorChoices,
  orderChoices,
  withChoices,
  type Choice,
} from '../../../core/queries/choices.ts'
import { findField } from '../../../core/queries/meaning.ts'

interface Props {
  text: string
  change(text: string): void
  /** Parameters that routes give it, e.g. `:category`. */
  given: readonly string[]
}

/** What is written, as far as it has been written. */
interface Written {
  from?: unknown
  with?: unknown
  where?: unknown
  'count-by'?: unknown
  order?: unknown
  take?: unknown
  pages?: Readonly<Record<string, unknown>>
  empty?: unknown
}

const texts = (value: unknown): string[] =>
  Array.isArray(value) ? value.filter((one): one is string => typeof one === 'string') : []

const options = (choices: readonly Choice[]) =>
  choices.map(({ value, detail }) => ({ value, label: value, title: detail, detail }))
const withDetail = (option: { data: { value?: unknown; detail?: string } }) => (
  <span className="choice">
    <code>{String(option.data.value)}</code> <span className="muted">{option.data.detail}</span>
  </span>
)
/** A list of choices is as wide as what it says. */
const WIDE = { popupMatchSelectWidth: false, optionRender: withDetail } as const

export function QueryBuilder({ text, change, given }: Props) {
  const document = parseDocument(text)
  const read: unknown = document.errors.length > 0 ? null : document.toJS()
  if (typeof read !== 'object' || read === null || Array.isArray(read))
    return <p className="quiet small">The text is no query yet: mend it as YAML, and its parts show here.</p>
  const query = read as Written
  const source = SOURCES.find((one) => one === query.from)
  const set = (path: (string | number)[], value: QueryPart | undefined) => {
    const changed = changeQuery(text, path, value)
    if (changed !== undefined) change(changed)
  }
  const list = (key: string, values: string[]) => set([key], values.length === 0 ? undefined : values)
  const take = typeof query.take === 'string' ? query.take : ''
  const kind = take.startsWith('first') ? 'first' : take
  const counts = texts(query['count-by'])
  return (
    <div className="builder" role="group" aria-label="Parts of the query">
      <Part name="From">
        <Select
          size="small"
          aria-label="Source"
          value={source ?? null}
          options={SOURCES.map((value) => ({ value, label: value }))}
          onChange={(value: SourceName) => set(['from'], value)}
        />
        {source && counts.length === 0 && withChoices(source).length > 0 ? (
          <>
            <span className="muted">with</span>
            <Select
              {...WIDE}
              size="small"
              mode="multiple"
              className="wide-select"
              aria-label="Related rows and counts"
              placeholder="nothing else"
              value={texts(query.with)}
              options={options(withChoices(source))}
              onChange={(values: string[]) => list('with', values)}
            />
          </>
        ) : null}
      </Part>
      {source ? (
        <>
          <Part name="Keep where">
            <Conditions source={source} where={query.where} set={set} given={given} />
          </Part>
          <Part name="Count by">
            <Select
              {...WIDE}
              size="small"
              mode="multiple"
              className="wide-select"
              aria-label="Fields to count by"
              placeholder="nothing: the rows themselves"
              value={counts}
              options={options(countByChoices(source))}
              onChange={(values: string[]) => list('count-by', values)}
            />
          </Part>
          <Part name="Order by">
            <Order
              source={source}
              order={texts(query.order)}
              counts={counts}
              change={(values) => list('order', values)}
            />
          </Part>
        </>
      ) : null}
      <Part name="Take">
        <Select
          size="small"
          aria-label="How many"
          value={kind === '' ? null : kind}
          popupMatchSelectWidth={false}
          options={[
            { value: 'one', label: 'one row' },
            { value: 'first', label: 'the first' },
            { value: 'pages', label: 'page by page' },
            { value: 'all', label: 'all rows' },
          ]}
          onChange={(value: string) => {
            // “pages” belongs to “take: pages”: both come and go together.
            const without = value === 'pages' ? text : (changeQuery(text, ['pages'], undefined) ?? text)
            const next = changeQuery(without, ['take'], value === 'first' ? 'first 5' : value) ?? text
            change(
              value === 'pages' && query.pages === undefined
                ? (changeQuery(next, ['pages'], { size: 6 }) ?? next)
                : next,
            )
          }}
        />
        {kind === 'first' ? (
          <InputNumber
            size="small"
            aria-label="Rows"
            min={1}
            max={999}
            value={Number(take.slice('first '.length)) || 1}
            onChange={(value) => set(['take'], `first ${value ?? 1}`)}
          />
        ) : null}
        {kind === 'pages' ? <Pages pages={query.pages ?? {}} set={set} /> : null}
      </Part>
      <Part name="Empty">
        <Select
          {...WIDE}
          size="small"
          aria-label="What no row means"
          value={typeof query.empty === 'string' ? query.empty : 'allow'}
          options={options(emptyChoices().filter((one) => kind === 'one' || one.value !== 'next-route'))}
          onChange={(value: string) => set(['empty'], value === 'allow' ? undefined : value)}
        />
      </Part>
    </div>
  )
}

function Part({ name, children }: { name: string; children: ReactNode }) {
  return (
    <div className="builder-part">
      <span className="muted">{name}</span>
      <div>{children}</div>
    </div>
  )
}

type Set = (path: (string | number)[], value: QueryPart | undefined) => void

interface ConditionsProps {
  source: SourceName
  where: unknown
  set: Set
  given: readonly string[]
}

function Conditions({ source, where, set, given }: ConditionsProps) {
  const written: unknown[] = Array.isArray(where) ? where : []
  const named = namedChoices(source).filter((one) => !written.includes(one.value))
  const [first] = conditionChoices(source)
  const add = (value: QueryPart) =>
    set(written.length === 0 ? ['where'] : ['where', written.length], written.length === 0 ? [value] : value)
  return (
    <>
      {written.map((condition, at) => (
        <div key={at} className="condition">
          {typeof condition === 'string' ? (
            <>
              <code className="pill">{condition}</code>
              <span className="muted">
                {namedChoices(source).find((one) => one.value === condition)?.detail}
              </span>
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
                set(['where', at], Object.fromEntries(next) as QueryPart)
              }}
            />
          ) : (
            <span>
              <code className="pill">{Object.keys(condition ?? {}).join(', ')}</code>{' '}
              <span className="muted">a group: changed in the YAML</span>
            </span>
          )}
          <Button
            size="small"
            type="text"
            aria-label={`Take condition ${at + 1} out`}
            onClick={() => set(['where', at], undefined)}
          >
            ✕
          </Button>
        </div>
      ))}
      <Dropdown
        trigger={['click']}
        menu={{
          items: [
            ...named.map((one) => ({
              key: one.value,
              label: (
                <>
                  {one.value} <span className="muted">{one.detail}</span>
                </>
              ),
            })),
            { key: '+', label: 'compare a field …' },
          ],
          onClick: ({ key }) => add(key === '+' ? { field: first?.value ?? 'id', is: 'equal', to: '' } : key),
        }}
      >
        <Button size="small">Add a condition</Button>
      </Dropdown>
    </>
  )
}

const isField = (condition: unknown): condition is FieldCondition =>
  typeof condition === 'object' &&
  condition !== null &&
  'field' in condition &&
  typeof condition.field === 'string'

interface ConditionProps {
  source: SourceName
  condition: FieldCondition
  given: readonly string[]
  change(changes: Partial<Record<keyof FieldCondition, QueryPart | undefined>>): void
}

function Condition({ source, condition: { field, is, to, when }, given, change }: ConditionProps) {
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
        <AutoComplete
          size="small"
          className={isParameter ? 'mono parameter' : 'mono'}
          aria-label={`What ${field} is compared with`}
          placeholder={type}
          value={text}
          options={given.map((one) => ({ value: `:${one}` }))}
          popupMatchSelectWidth={false}
          onChange={(value: string) => change({ to: valueOf(value, type, is === 'in') })}
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

interface OrderProps {
  source: SourceName
  order: readonly string[]
  counts: readonly string[]
  change(order: string[]): void
}

function Order({ source, order, counts, change }: OrderProps) {
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

function Pages({ pages, set }: { pages: Readonly<Record<string, unknown>>; set: Set }) {
  const isCursor = pages['by'] === 'cursor'
  const text = (key: string, usual: string) => (typeof pages[key] === 'string' ? pages[key] : usual)
  return (
    <>
      <InputNumber
        size="small"
        aria-label="Rows on a page"
        min={1}
        max={100}
        value={typeof pages['size'] === 'number' ? pages['size'] : null}
        suffix="a page"
        onChange={(value) => set(['pages', 'size'], value ?? 1)}
      />
      <Select
        size="small"
        aria-label="How pages are turned"
        popupMatchSelectWidth={false}
        value={isCursor ? 'cursor' : 'number'}
        options={[
          { value: 'number', label: 'by number' },
          { value: 'cursor', label: 'by cursor' },
        ]}
        onChange={(value: string) => set(['pages', 'by'], value === 'number' ? undefined : value)}
      />
      <span className="muted">from</span>
      <AutoComplete
        size="small"
        className="mono parameter-name"
        aria-label="Parameter of the query string"
        value={text('parameter', 'page')}
        options={[{ value: 'page' }, { value: 'from' }]}
        onChange={(value: string) => set(['pages', 'parameter'], value === '' ? undefined : value)}
      />
      <Select
        size="small"
        aria-label="How many there are"
        popupMatchSelectWidth={false}
        value={text('count', isCursor ? 'none' : 'exact')}
        options={[
          ...(isCursor ? [{ value: 'none', label: 'not counted' }] : []),
          { value: 'exact', label: 'counted' },
          { value: 'estimated', label: 'counted, or “about”' },
        ]}
        onChange={(value: string) =>
          set(['pages', 'count'], value === (isCursor ? 'none' : 'exact') ? undefined : value)
        }
      />
      {isCursor ? null : (
        <Select
          size="small"
          aria-label="A page past the end"
          popupMatchSelectWidth={false}
          value={text('past-the-end', 'not-found')}
          options={[
            { value: 'not-found', label: 'past the end: not found' },
            { value: 'last', label: 'past the end: the last page' },
            { value: 'empty', label: 'past the end: an empty page' },
          ]}
          onChange={(value: string) => set(['pages', 'past-the-end'], value)}
        />
      )}
    </>
  )
}
