/** Small parts used everywhere: plates for patterns, chips for states, times, copy buttons. */
import { App, Button } from 'antd'
import type { ReactNode } from 'react'
import { formatMilliseconds } from '../words/format.ts'
import { words } from '../words/words.ts'

/** Shows a pattern as a street plate, with its parameters in amber. */
export function Plate({ pattern }: { pattern: string }) {
  const parts = pattern.split(/(:[A-Za-z_][\w]*(?:\([^)]*\))?[+*?]?)/)
  return (
    <span className="plate">
      {parts.map((part, index) =>
        part.startsWith(':') ? <b key={index}>{part}</b> : <span key={index}>{part}</span>,
      )}
    </span>
  )
}

export type Tone = 'plain' | 'fine' | 'look' | 'fail' | 'blue'

export function Chip({
  tone = 'plain',
  title,
  children,
}: {
  tone?: Tone
  title?: string
  children: ReactNode
}) {
  return (
    <span className={`chip ${tone}`} title={title}>
      {children}
    </span>
  )
}

/** Marks a document that has unsaved changes. */
export function Unsaved() {
  return <span className="unsaved" role="img" aria-label={words.notSaved} title={words.notSaved} />
}

export function Time({ value }: { value: number }) {
  return <span className="time">{formatMilliseconds(value)}</span>
}

export function Copy({ text, what }: { text: string; what: string }) {
  const { message } = App.useApp()
  const copy = () =>
    navigator.clipboard.writeText(text).then(
      () => message.success(words.copied(what)),
      () => message.error(words.copyDenied),
    )
  return (
    <Button
      size="small"
      type="text"
      className="copy"
      aria-label={words.copyWhat(what)}
      onClick={() => void copy()}
    >
      {words.copy}
    </Button>
  )
}
