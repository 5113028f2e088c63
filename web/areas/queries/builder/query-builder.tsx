/** Edits the parts of a query with controls. They change its YAML in place and keep what they do not know. */
import { App, InputNumber, Select } from 'antd'
import type { ReactNode } from 'react'
import { parseDocument } from 'yaml'
import { changeSource } from '../../../../core/blog/change-source.ts'
import { changeQuery, type QueryPart } from '../../../../core/blog/edit-query.ts'
import { SOURCES, type SourceName } from '../../../../core/shapes/schemas.ts'
import { countByChoices, emptyChoices, withChoices } from '../../../../core/queries/authoring/choices.ts'
import { options, WIDE, type SetPart } from './choices.tsx'
import { Conditions } from './conditions.tsx'
import { Order } from './order.tsx'
import { words } from '../words.ts'
import { Pages } from './pages.tsx'

const texts = words.builder

/** How long a message is shown, in seconds. */
const SHOWN = 8

interface Props {
  text: string
  change(text: string): void
  /** Names of the parameters of its routes, e.g. `category`. */
  parameters: readonly string[]
}

/** The parts as they are in the text; they need not be valid. */
interface Parts {
  from?: unknown
  with?: unknown
  where?: unknown
  'count-by'?: unknown
  order?: unknown
  take?: unknown
  pages?: Readonly<Record<string, unknown>>
  empty?: unknown
}

const removed = (key: string): [string[], undefined] => [[key], undefined]
const defaultPages: [string[], QueryPart] = [['pages'], { size: 6 }]

const textsIn = (value: unknown): string[] =>
  Array.isArray(value) ? value.filter((one): one is string => typeof one === 'string') : []

export function QueryBuilder({ text, change, parameters }: Props) {
  const { message } = App.useApp()
  const document = parseDocument(text)
  const read: unknown = document.errors.length > 0 ? null : document.toJS()
  if (typeof read !== 'object' || read === null || Array.isArray(read))
    return <p className="quiet small">{texts.invalid}</p>
  const query = read as Parts
  const source = SOURCES.find((one) => one === query.from)
  const set: SetPart = (path, value, ...also) => {
    let changed: string | undefined = text
    for (const [at, what] of [[path, value] as const, ...also])
      if (changed !== undefined) changed = changeQuery(changed, at, what)
    if (changed !== undefined) change(changed)
  }
  const listed = (values: string[]): QueryPart | undefined => (values.length === 0 ? undefined : values)
  const list = (key: string, values: string[]) => set([key], listed(values))
  const setSource = (next: SourceName) => {
    const changed = changeSource(text, next)
    if (!changed) return
    change(changed.text)
    if (changed.removed.length > 0) void message.info(texts.removed(next, changed.removed), SHOWN)
  }
  const take = typeof query.take === 'string' ? query.take : ''
  const kind = take.startsWith('first') ? 'first' : take
  const counts = textsIn(query['count-by'])
  return (
    <div className="builder" role="group" aria-label={texts.label}>
      <Part name={texts.from}>
        <Select
          size="small"
          aria-label={texts.source}
          value={source ?? null}
          options={SOURCES.map((value) => ({ value, label: value }))}
          onChange={setSource}
        />
        {source && counts.length === 0 && withChoices(source).length > 0 ? (
          <>
            <span className="muted">{texts.with}</span>
            <Select
              {...WIDE}
              size="small"
              mode="multiple"
              className="wide-select"
              aria-label={texts.related}
              placeholder={texts.noneRelated}
              value={textsIn(query.with)}
              options={options(withChoices(source))}
              onChange={(values: string[]) => list('with', values)}
            />
          </>
        ) : null}
      </Part>
      {source ? (
        <>
          <Part name={texts.where}>
            <Conditions
              source={source}
              conditions={query.where}
              path={['where']}
              set={set}
              parameters={parameters}
            />
          </Part>
          <Part name={texts.countBy}>
            <Select
              {...WIDE}
              size="small"
              mode="multiple"
              className="wide-select"
              aria-label={texts.countFields}
              placeholder={texts.notCounted}
              value={counts}
              options={options(countByChoices(source))}
              // Counted rows have no related rows.
              onChange={(values: string[]) =>
                set(['count-by'], listed(values), ...(values.length > 0 ? [removed('with')] : []))
              }
            />
          </Part>
          <Part name={texts.order}>
            <Order
              source={source}
              order={textsIn(query.order)}
              counts={counts}
              change={(values) => list('order', values)}
            />
          </Part>
        </>
      ) : null}
      <Part name={texts.take}>
        <Select
          size="small"
          aria-label={texts.howMany}
          value={kind === '' ? null : kind}
          popupMatchSelectWidth={false}
          options={[
            { value: 'one', label: texts.one },
            { value: 'first', label: texts.first },
            { value: 'pages', label: texts.pages },
            { value: 'all', label: texts.all },
          ]}
          onChange={(value: string) =>
            // Parts that belong to one value are added and removed with it.
            set(
              ['take'],
              value === 'first' ? 'first 5' : value,
              ...(value === 'pages' ? [] : [removed('pages')]),
              ...(value === 'pages' && query.pages === undefined ? [defaultPages] : []),
              ...(value !== 'one' && query.empty === 'next-route' ? [removed('empty')] : []),
            )
          }
        />
        {kind === 'first' ? (
          <InputNumber
            size="small"
            aria-label={texts.rows}
            min={1}
            max={999}
            value={Number(take.slice('first '.length)) || 1}
            onChange={(value) => set(['take'], `first ${value ?? 1}`)}
          />
        ) : null}
        {kind === 'pages' ? <Pages pages={query.pages ?? {}} set={set} /> : null}
      </Part>
      <Part name={texts.empty}>
        <Select
          {...WIDE}
          size="small"
          aria-label={texts.emptyRule}
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
