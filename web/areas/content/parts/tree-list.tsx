/** A list of rows of a tree. They are moved by dragging or by keys. */
import { closestCenter, DndContext, type DragEndEvent } from '@dnd-kit/core'
import { SortableContext, useSortable, verticalListSortingStrategy } from '@dnd-kit/sortable'
import { CSS } from '@dnd-kit/utilities'
import { useNotices } from '../../../shared/changes/notices.tsx'
import { useDragSensors } from '../../../shared/marks/use-drag-sensors.ts'
import { useRef, useState, type ReactNode } from 'react'
import { focusLater } from '../../../shared/focus/focus.ts'
import { words } from '../words.ts'
import { dropped, LEVEL, stepped, type Branch, type Place, type Step } from './tree-moves.ts'

const text = words.tree

export interface TreeRow extends Branch {
  title: string
  /** Shown below its title. */
  facts: ReactNode
  chip?: ReactNode
}

interface Props {
  rows: readonly TreeRow[]
  open: string | null
  choose(id: string): void
  /** Returns the row's new id. Absent if the order cannot be changed. */
  move?: ((id: string, to: Place) => Promise<string | undefined>) | undefined
  /** The kind of a row, e.g. page. */
  kind: string
}

const STEPS: Readonly<Record<string, Step>> = {
  ArrowUp: 'up',
  ArrowDown: 'down',
  ArrowRight: 'in',
  ArrowLeft: 'out',
}

export function TreeList({ rows, open, choose, move, kind }: Props) {
  const sensors = useDragSensors()
  const list = useRef<HTMLUListElement>(null)
  const [announced, setAnnounced] = useState('')
  const notices = useNotices()
  const moveTo = async (id: string, to: Place | undefined) => {
    if (!move || !to) return
    const row = handleOf(id)?.closest('li')
    notices.withdraw()
    const moved = await move(id, to)
    setAnnounced(describe(to))
    // A page has another path after it was moved below another one.
    focusLater(() => (row?.isConnected ? row.querySelector<HTMLElement>('.handle') : handleOf(moved ?? id)))
  }
  const title = (id: string | null) => rows.find((one) => one.id === id)?.title ?? ''
  const handleOf = (id: string) =>
    list.current?.querySelector<HTMLElement>(`[data-id="${window.CSS.escape(id)}"] .handle`)
  const describe = (to: Place) =>
    `${to.before === null ? text.movedToEnd : text.movedBefore(title(to.before))}${to.parent === null ? '' : text.inside(title(to.parent))}`
  const onDragEnd = ({ active, over, delta }: DragEndEvent) => {
    if (!over) return
    const id = String(active.id)
    void moveTo(id, dropped(rows, id, String(over.id), delta.x))
  }
  return (
    <DndContext sensors={sensors} collisionDetection={closestCenter} onDragEnd={onDragEnd}>
      <SortableContext
        items={rows.map((one) => one.id)}
        strategy={verticalListSortingStrategy}
        disabled={!move}
      >
        <ul className="scroll rows tree" ref={list}>
          {rows.map((row) => (
            <Row
              key={row.id}
              row={row}
              isOpen={row.id === open}
              isMovable={move !== undefined}
              kind={kind}
              choose={() => choose(row.id)}
              step={(step) => void moveTo(row.id, stepped(rows, row.id, step))}
            />
          ))}
        </ul>
      </SortableContext>
      <p className="unseen" role="status">
        {announced}
      </p>
    </DndContext>
  )
}

interface RowProps {
  row: TreeRow
  isOpen: boolean
  isMovable: boolean
  kind: string
  choose(): void
  step(step: Step): void
}

function Row({ row, isOpen, isMovable, kind, choose, step }: RowProps) {
  const { attributes, listeners, setNodeRef, setActivatorNodeRef, transform, transition, isDragging } =
    useSortable({ id: row.id, disabled: !isMovable })
  return (
    <li
      ref={setNodeRef}
      data-id={row.id}
      className={`${isOpen ? 'on' : ''}${isDragging ? ' dragged' : ''}`}
      style={{
        transform: CSS.Translate.toString(transform),
        ...(transition ? { transition } : {}),
        paddingLeft: row.depth * LEVEL,
      }}
      onKeyDown={(event) => {
        const key = event.altKey && isMovable ? STEPS[event.key] : undefined
        if (key === undefined) return
        event.preventDefault()
        step(key)
      }}
    >
      {isMovable ? (
        <button
          type="button"
          ref={setActivatorNodeRef}
          className="handle"
          {...attributes}
          {...listeners}
          aria-label={text.move(kind, row.title)}
          title={text.moveHint}
        >
          <svg width="8" height="14" viewBox="0 0 8 14" aria-hidden="true">
            {[2, 7, 12].flatMap((y) => [2, 6].map((x) => <circle key={`${x} ${y}`} cx={x} cy={y} r="1.1" />))}
          </svg>
        </button>
      ) : null}
      <button type="button" className="row" aria-current={isOpen} onClick={choose}>
        <b>{row.title}</b>
        {row.chip ?? <span />}
        <span className="muted">{row.facts}</span>
      </button>
    </li>
  )
}
