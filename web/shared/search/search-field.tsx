/** A field that searches once typing pauses. */
import { Input } from 'antd'
import { useEffect, useRef, useState } from 'react'

/** How long typing pauses, in milliseconds. */
const PAUSE = 200

interface Props {
  label: string
  /** What can be searched for. */
  help?: string
  value: string
  change(value: string): void
}

export function SearchField({ label, help, value, change }: Props) {
  const [typed, setTyped] = useState(value)
  const [known, setKnown] = useState(value)
  const [sent, setSent] = useState(value)
  if (known !== value) {
    setKnown(value)
    // Somebody else has changed it, such as Back. What is being typed stays when its own beginning comes back.
    if (value !== sent) setTyped(value)
  }
  const tell = useRef(change)
  useEffect(() => {
    tell.current = change
  })
  useEffect(() => {
    if (typed === value) return
    const timer = setTimeout(() => {
      setSent(typed)
      tell.current(typed)
    }, PAUSE)
    return () => clearTimeout(timer)
  }, [typed, value])
  return (
    <Input
      size="small"
      type="search"
      aria-label={label}
      title={help}
      placeholder={label}
      value={typed}
      allowClear
      onChange={(event) => setTyped(event.target.value)}
    />
  )
}
