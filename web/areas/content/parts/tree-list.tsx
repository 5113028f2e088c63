/** Rows of a tree: opened, and moved by drag or by keys. */
import { closestCenter, DndContext, type DragEndEvent } from '@dnd-kit/core'
import { SortableContext, useSortable, verticalListSortingStrategy } from '@dnd-kit/sortable'
import { CSS } from '@dnd-kit/utilities'
import { useWithdrawNotice } from '../../../shared/changes/undo-notice.tsx'
import { useDragSensors } from '../../../shared/marks/use-drag-sensors.ts'
import { useRef, useState, type ReactNode } from 'react'
import { dropped, LEVEL, stepped, type Branch, type Place, type Step } from './tree-moves.ts'

export interface TreeRow extends Branch {
  title: string
  /** What is said of it, below its title. */
  facts: ReactNode
  chip?: ReactNode
}

interface Props {
  rows: readonly TreeRow[]
  open: string | null
  choose(id: string): void
  /** Absent: the order is not the author's to choose. */
  move?: ((id: string, to: Place) => Promise<void>) | undefined
  /** What a row is called: page, category. */
  word: string
}

/** Only the last move can be taken back: it knows where everything was. */
export const MOVED = { key: 'moved' } as const

const STEPS: Readonly<Record<string, Step>> = {
  ArrowUp: 'up',
  ArrowDown: 'down',
  ArrowRight: 'in',
  ArrowLeft: 'out',
}

export function TreeList({ rows, open, choose, move, word }: Props) {
  const sensors = useDragSensors()
  const list = useRef<HTMLUListElement>(null)
  const [said, setSaid] = useState('')
  const withdraw = useWithdrawNotice()
  const place = async (id: string, to: Place | undefined, how: string) => {
    if (!move || !to) return
    withdraw(MOVED.key)
    await move(id, to)
    setSaid(how)
    list.current?.querySelector<HTMLElement>(`[data-id="${CSS_ESCAPE(id)}"] .handle`)?.focus()
  }
  const title = (id: string | null) => rows.find((one) => one.id === id)?.title ?? ''
  const inWords = (to: Place) =>
    `${to.before === null ? 'moved to the end' : `moved before “${title(to.before)}”`}${to.parent === null ? '' : `, in “${title(to.parent)}”`}`
  const onDragEnd = ({ active, over, delta }: DragEndEvent) => {
    if (!over) return
    const id = String(active.id)
    const to = dropped(rows, id, String(over.id), delta.x)
    void place(id, to, to ? inWords(to) : '')
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
              word={word}
              choose={() => choose(row.id)}
              step={(step) => {
                const to = stepped(rows, row.id, step)
                void place(row.id, to, to ? inWords(to) : '')
              }}
            />
          ))}
        </ul>
      </SortableContext>
      <p className="unseen" role="status">
        {said}
      </p>
    </DndContext>
  )
}

const CSS_ESCAPE = (id: string) => window.CSS.escape(id)

interface RowProps {
  row: TreeRow
  isOpen: boolean
  isMovable: boolean
  word: string
  choose(): void
  step(step: Step): void
}

function Row({ row, isOpen, isMovable, word, choose, step }: RowProps) {
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
          aria-label={`Move ${word} “${row.title}”: drag, or Alt and an arrow; right is in, left is out`}
          title="Drag, or Alt and an arrow: right is in, left is out"
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
