/** A query's parts as controls, beside its YAML: both are the same text, and what is not known here stays as it is. */
import { InputNumber, Select } from 'antd'
import type { ReactNode } from 'react'
import { parseDocument } from 'yaml'
import { changeQuery, type QueryPart } from '../../../../core/blog/edit-query.ts'
import { SOURCES, type SourceName } from '../../../../core/shapes/schemas.ts'
import { countByChoices, emptyChoices, withChoices } from '../../../../core/queries/authoring/choices.ts'
import { options, WIDE, type SetPart } from './choices.tsx'
import { Conditions } from './conditions.tsx'
import { Order } from './order.tsx'
import { Pages } from './pages.tsx'

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

const gone = (key: string): [string[], undefined] => [[key], undefined]
const fresh: [string[], QueryPart] = [['pages'], { size: 6 }]

const texts = (value: unknown): string[] =>
  Array.isArray(value) ? value.filter((one): one is string => typeof one === 'string') : []

export function QueryBuilder({ text, change, given }: Props) {
  const document = parseDocument(text)
  const read: unknown = document.errors.length > 0 ? null : document.toJS()
  if (typeof read !== 'object' || read === null || Array.isArray(read))
    return <p className="quiet small">The text is no query yet: mend it as YAML, and its parts show here.</p>
  const query = read as Written
  const source = SOURCES.find((one) => one === query.from)
  const set: SetPart = (path, value, ...also) => {
    let changed: string | undefined = text
    for (const [at, what] of [[path, value] as const, ...also])
      if (changed !== undefined) changed = changeQuery(changed, at, what)
    if (changed !== undefined) change(changed)
  }
  const listed = (values: string[]): QueryPart | undefined => (values.length === 0 ? undefined : values)
  const list = (key: string, values: string[]) => set([key], listed(values))
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
            <Conditions source={source} written={query.where} path={['where']} set={set} given={given} />
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
              // What is counted has no rows that anything could come with.
              onChange={(values: string[]) =>
                set(['count-by'], listed(values), ...(values.length > 0 ? [gone('with')] : []))
              }
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
          onChange={(value: string) =>
            // What belongs to one way of taking rows comes and goes with it.
            set(
              ['take'],
              value === 'first' ? 'first 5' : value,
              ...(value === 'pages' ? [] : [gone('pages')]),
              ...(value === 'pages' && query.pages === undefined ? [fresh] : []),
              ...(value !== 'one' && query.empty === 'next-route' ? [gone('empty')] : []),
            )
          }
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
