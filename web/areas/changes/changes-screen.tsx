/** The Changes area: what was changed, newest first, and undoing it. */
import { Button, Select } from 'antd'
import { useEffect, useRef, useState } from 'react'
import { useSearchParams } from 'react-router'
import type { StepItem } from '../../../contract/changes.ts'
import { useRead } from '../../api/queries.ts'
import { formatClock, formatDate } from '../../shared/words/format.ts'
import { StepDetail } from './step-detail.tsx'
import { words } from './words.ts'
import './changes.css'

/** How often the latest changes are read, in milliseconds. */
const INTERVAL = 3_000

type Kind = StepItem['of']
type Filter = Exclude<Kind, 'both'> | 'all'
const FILTERS: readonly Filter[] = ['all', 'content', 'definition']

export function ChangesScreen() {
  const [parameters, setParameters] = useSearchParams()
  const filter = FILTERS.find((one) => one === parameters.get('of')) ?? 'all'
  const chosen = parameters.get('step')
  const change = (name: 'of' | 'step', value: string | null) =>
    setParameters((known) => {
      const next = new URLSearchParams(known)
      if (value === null) next.delete(name)
      else next.set(name, value)
      return next
    })
  return (
    <main className="steps">
      <section className="pane" aria-label={words.list}>
        <header>
          <h1>{words.title}</h1>
          <span className="grow" />
          <Select
            aria-label={words.filter}
            size="small"
            value={filter}
            onChange={(of: Filter) => change('of', of === 'all' ? null : of)}
            options={FILTERS.map((value) => ({ value, label: words[value] }))}
            popupMatchSelectWidth={false}
          />
        </header>
        <div className="scroll">
          <Steps key={filter} filter={filter} chosen={chosen} choose={(id) => change('step', id)} />
        </div>
      </section>
      {chosen === null ? (
        <section className="pane">
          <p className="quiet">{words.choose}</p>
        </section>
      ) : (
        <StepDetail key={chosen} id={chosen} choose={(id) => change('step', id)} />
      )}
    </main>
  )
}

interface StepsProps {
  filter: Filter
  chosen: string | null
  choose(id: string): void
}

/** Where a page of steps begins: after a step, whose day is already shown. */
interface PageStart {
  before: string | null
  day: string | null
}

function Steps(props: StepsProps) {
  const [pages, setPages] = useState<readonly PageStart[]>([{ before: null, day: null }])
  const list = useRef<HTMLDivElement>(null)
  useEffect(() => {
    const listen = (event: KeyboardEvent) => {
      const step = { j: 1, k: -1 }[event.key]
      const { target } = event
      const isTyping = target instanceof HTMLElement && /^(INPUT|TEXTAREA)$/.test(target.tagName)
      if (step === undefined || event.ctrlKey || event.metaKey || isTyping) return
      const buttons = [...(list.current?.querySelectorAll<HTMLButtonElement>('.list button') ?? [])]
      const at = buttons.findIndex((one) => one.hasAttribute('aria-current'))
      const next = buttons[Math.min(Math.max(at + step, 0), buttons.length - 1)]
      next?.click()
      next?.scrollIntoView({ block: 'nearest' })
    }
    window.addEventListener('keydown', listen)
    return () => window.removeEventListener('keydown', listen)
  }, [])
  return (
    <div ref={list}>
      {pages.map((start, index) => (
        <Page
          key={start.before}
          {...props}
          start={start}
          showMore={index === pages.length - 1 ? (next) => setPages([...pages, next]) : undefined}
        />
      ))}
    </div>
  )
}

interface PageProps extends StepsProps {
  start: PageStart
  /** Shows the next page; undefined if it is shown. */
  showMore: ((next: PageStart) => void) | undefined
}

function Page({ filter, chosen, choose, start, showMore }: PageProps) {
  const { data } = useRead(
    'GET /api/steps',
    {
      query: {
        ...(filter === 'all' ? {} : { of: filter }),
        ...(start.before === null ? {} : { before: start.before }),
      },
    },
    start.before === null ? { refetchInterval: INTERVAL } : {},
  )
  if (!data)
    return (
      <p className="quiet" role="status">
        {words.loading}
      </p>
    )
  const { steps, isMore } = data
  if (steps.length === 0 && start.before === null)
    return <p className="quiet">{filter === 'all' ? words.empty : words.emptyFilter}</p>
  const last = steps.at(-1)
  return (
    <>
      {byDay(steps).map(([day, ofDay]) => (
        <Day key={day} day={day === start.day ? null : day} steps={ofDay} chosen={chosen} choose={choose} />
      ))}
      {isMore && last && showMore ? (
        <div className="earlier">
          <Button size="small" onClick={() => showMore({ before: last.id, day: formatDate(last.at) })}>
            {words.earlier}
          </Button>
        </div>
      ) : null}
    </>
  )
}

function byDay(steps: readonly StepItem[]): [string, StepItem[]][] {
  const days = new Map<string, StepItem[]>()
  for (const one of steps) {
    const day = formatDate(one.at)
    const known = days.get(day)
    if (known) known.push(one)
    else days.set(day, [one])
  }
  return [...days]
}

function Day({
  day,
  steps,
  chosen,
  choose,
}: Omit<StepsProps, 'filter'> & {
  /** null if it is shown above. */
  day: string | null
  steps: readonly StepItem[]
}) {
  return (
    <>
      {day === null ? null : <h2 className="item-list-heading">{day}</h2>}
      <ul className="item-list list">
        {steps.map((one) => (
          <li key={one.id} className={one.undoneBy === null ? '' : 'undone'}>
            <button aria-current={chosen === one.id ? 'true' : undefined} onClick={() => choose(one.id)}>
              <span className="at">{formatClock(one.at).slice(0, 5)}</span>
              <span className="what">{summary(one)}</span>
              <Marks step={one} />
            </button>
          </li>
        ))}
      </ul>
    </>
  )
}

function summary({ rows, total }: StepItem): string {
  const [first] = rows
  if (!first) return words.more(total)
  const row = words.row(
    first.table,
    first.title,
    first.kind,
    first.fields.map((one) => one.name),
  )
  return total > 1 ? `${row}, ${words.more(total - 1)}` : row
}

function Marks({ step: { isOutside, undoes, undoneBy } }: { step: StepItem }) {
  const marks = [
    ...(isOutside ? [words.outside] : []),
    ...(undoes === null ? [] : [words.undoing]),
    ...(undoneBy === null ? [] : [words.undone]),
  ]
  return marks.length === 0 ? null : <span className="marks">{marks.join(' · ')}</span>
}
