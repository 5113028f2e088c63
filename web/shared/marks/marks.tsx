/** Small marks used everywhere: plates for patterns, chips for states, times, copy buttons. */
import { App, Button } from 'antd'
import type { ReactNode } from 'react'
import { formatMilliseconds } from '../words/words.ts'

/** A pattern as an enamel street plate; parameters stand in pale amber. */
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

/** Beside a document's name: something is typed into it that is not saved. */
export function Unsaved() {
  return <span className="unsaved" role="img" aria-label="not saved" title="not saved" />
}

export function Time({ value }: { value: number }) {
  return <span className="time">{formatMilliseconds(value)}</span>
}

export function Copy({ text, what }: { text: string; what: string }) {
  const { message } = App.useApp()
  const copy = () =>
    navigator.clipboard.writeText(text).then(
      () => message.success(`Copied ${what}`),
      () => message.error('The browser does not allow copying here'),
    )
  return (
    <Button size="small" type="text" className="copy" aria-label={`Copy ${what}`} onClick={() => void copy()}>
      Copy
    </Button>
  )
}
