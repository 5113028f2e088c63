/** The routes as plates, nested by their paths. They are moved by dragging or by keys. */
import { closestCenter, DndContext, type DragEndEvent } from '@dnd-kit/core'
import { arrayMove, SortableContext, useSortable, verticalListSortingStrategy } from '@dnd-kit/sortable'
import { CSS } from '@dnd-kit/utilities'
import { useDragSensors } from '../../shared/marks/use-drag-sensors.ts'
import type { CheckFinding } from '../../../contract/checks.ts'
import type { RouteSummary } from '../../../contract/routes.ts'
import { Chip, Plate } from '../../shared/marks/marks.tsx'
import { nesting, type Nested } from './nesting.ts'
import { words } from './words.ts'

const text = words.row

interface Props {
  routes: readonly RouteSummary[]
  findings: readonly CheckFinding[]
  open: string | undefined
  choose(name: string): void
  reorder(names: readonly string[], moved: string): void
}

export function RouteList({ routes, findings, open, choose, reorder }: Props) {
  const sensors = useDragSensors()
  const names = routes.map((one) => one.name)
  const nested = nesting(routes.map((one) => one.path))
  const move = (from: number, to: number) => {
    const moved = names[from]
    if (moved !== undefined && to >= 0 && to < names.length && from !== to)
      reorder(arrayMove(names, from, to), moved)
  }
  const onDragEnd = ({ active, over }: DragEndEvent) => {
    if (over) move(names.indexOf(String(active.id)), names.indexOf(String(over.id)))
  }
  return (
    <DndContext sensors={sensors} collisionDetection={closestCenter} onDragEnd={onDragEnd}>
      <SortableContext items={names} strategy={verticalListSortingStrategy}>
        <div className="route-head" aria-hidden="true">
          <span />
          <span>{text.pattern}</span>
          <span>{text.data}</span>
          <span>{text.template}</span>
          <span className="number">{text.addresses}</span>
        </div>
        <ol className="route-rows">
          {routes.map((route, index) => (
            <RouteRow
              key={route.name}
              route={route}
              place={index}
              nested={nested[index] ?? { depth: 0, continues: [] }}
              findings={findings.filter((one) => one.subject.split(' ').includes(route.name))}
              isOpen={open === route.name}
              choose={choose}
              move={(step) => move(index, index + step)}
            />
          ))}
        </ol>
      </SortableContext>
    </DndContext>
  )
}

interface RowProps {
  route: RouteSummary
  place: number
  nested: Nested
  findings: readonly CheckFinding[]
  isOpen: boolean
  choose(name: string): void
  move(step: number): void
}

function RouteRow({ route, place, nested, findings, isOpen, choose, move }: RowProps) {
  const { attributes, listeners, setNodeRef, setActivatorNodeRef, transform, transition, isDragging } =
    useSortable({ id: route.name })
  const isUnreachable = findings.some((one) => one.rule === 'route-never-reached')
  const style = { transform: CSS.Transform.toString(transform), ...(transition ? { transition } : {}) }
  return (
    <li
      ref={setNodeRef}
      style={style}
      className={`route-row${findings.some((one) => one.affects === 'now') ? ' warn' : ''}${isOpen ? ' open' : ''}${isDragging ? ' dragged' : ''}`}
      onKeyDown={(event) => {
        const step = event.altKey ? { ArrowUp: -1, ArrowDown: 1 }[event.key] : undefined
        if (step === undefined) return
        event.preventDefault()
        move(step)
      }}
    >
      <button
        ref={setActivatorNodeRef}
        className="handle"
        {...attributes}
        {...listeners}
        aria-label={text.move(route.name, place + 1)}
      >
        {place + 1}
      </button>
      <button className="whole" aria-current={isOpen ? 'true' : undefined} onClick={() => choose(route.name)}>
        <span className="unseen">{text.label(route.name)}</span>
        <span className="pattern">
          {nested.continues.map((continues, level) => (
            <i
              key={level}
              className={`tee${level < nested.depth - 1 ? ' through' : ''}${continues ? ' on' : ''}`}
              aria-hidden="true"
            />
          ))}
          <Plate pattern={route.path} />
          {route.method === 'POST' ? <Chip>POST</Chip> : null}
          {isUnreachable ? (
            <Chip tone="fail">{text.unreachable}</Chip>
          ) : findings.length > 0 ? (
            <Chip tone="look">
              {findings.some((one) => one.rule === 'routes-overlap') ? text.overlaps : text.hasFinding}
            </Chip>
          ) : null}
        </span>
        <span className="answers">
          <Data route={route} />
        </span>
        <code>{route.template ?? ''}</code>
        <span className="number">
          {route.addresses ?? (route.method === 'POST' || route.redirect ? '' : text.any)}
        </span>
      </button>
    </li>
  )
}

function Data({ route: { queries, redirect, action } }: { route: RouteSummary }) {
  if (redirect) return <span className="muted">{text.redirect(redirect.status, redirect.to)}</span>
  if (action !== null) return <span className="muted">{action}</span>
  if (queries.length === 0) return <span className="muted">{text.noQuery}</span>
  const [first, ...others] = queries
  return (
    <span title={queries.map((one) => `${one.name}: ${one.sentence}`).join('\n')}>
      {first?.name}
      {first?.pagesBy ? ` · ${text.pages[first.pagesBy]}` : ''}
      {others.length > 0 ? <span className="muted"> {text.more(others.length)}</span> : null}
    </span>
  )
}
