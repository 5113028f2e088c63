/** The address to walk, with its parameters marked, and suggested addresses. */
import { Button } from 'antd'
import { useEffect, useRef, useState, type ReactNode } from 'react'
import type { WalkRecord } from '../../../contract/walk-record.ts'
import { useRead } from '../../api/queries.ts'
import { words } from './words.ts'

const text = words.address

interface Props {
  path: string
  origin: string
  record: WalkRecord | undefined
  isBusy: boolean
  walk(path: string, edit?: string): void
  compare(): void
  /** Shown after the buttons. */
  extra?: ReactNode
}

export function AddressLine({ path, origin, record, isBusy, walk, compare, extra }: Props) {
  const [typed, setTyped] = useState(path)
  const [known, setKnown] = useState(path)
  const [focused, setFocused] = useState(false)
  const input = useRef<HTMLInputElement>(null)
  if (known !== path) {
    setKnown(path)
    setTyped(path)
  }
  useEffect(() => {
    const listen = (event: KeyboardEvent) => {
      if (
        event.key !== '/' ||
        event.ctrlKey ||
        event.metaKey ||
        (event.target instanceof HTMLElement &&
          (event.target.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(event.target.tagName)))
      )
        return
      event.preventDefault()
      input.current?.focus()
      input.current?.select()
    }
    window.addEventListener('keydown', listen)
    return () => window.removeEventListener('keydown', listen)
  }, [])
  const suggestions = useRead('GET /api/suggestions', {})
  const host = origin.replace(/^https?:\/\//, '')
  return (
    <form
      className="address"
      onSubmit={(event) => {
        event.preventDefault()
        const wanted = typed.trim().replace(origin, '')
        walk(wanted.startsWith('/') ? wanted : `/${wanted}`)
      }}
    >
      <div className="field">
        <code className="method">GET</code>
        <label className="host" htmlFor="address">
          {host}
        </label>
        <div className={`typed${focused ? ' focused' : ''}`}>
          <input
            id="address"
            ref={input}
            value={typed}
            spellCheck={false}
            autoComplete="off"
            aria-label={text.label}
            onChange={(event) => setTyped(event.target.value)}
            onFocus={() => setFocused(true)}
            onBlur={() => setFocused(false)}
          />
          <div className="marked" aria-hidden="true">
            {splitParameters(typed, record).map((part, index) =>
              part.isParameter ? <em key={index}>{part.text}</em> : <span key={index}>{part.text}</span>,
            )}
          </div>
        </div>
        <div className="suggestions">
          {(suggestions.data ?? []).map((one) => (
            <button
              type="button"
              key={one.label}
              className="chip"
              title={text.suggestion(one.path, one.document)}
              onClick={() => walk(one.path, one.document ?? undefined)}
            >
              {one.label}
            </button>
          ))}
        </div>
      </div>
      <Button type="primary" htmlType="submit" size="large" loading={isBusy}>
        {text.walk}
      </Button>
      <Button size="large" onClick={compare} disabled={!record} title={text.compareHint}>
        {text.compare}
      </Button>
      {extra}
    </form>
  )
}

/** Splits an address into the values of its parameters and the text between them. */
function splitParameters(
  typed: string,
  record: WalkRecord | undefined,
): { text: string; isParameter: boolean }[] {
  if (record?.target !== typed) return [{ text: typed, isParameter: false }]
  const parts: { text: string; isParameter: boolean }[] = []
  let rest = typed
  for (const { raw, from, name } of record.parameters) {
    if (raw === null || raw === '') continue
    const at =
      from === 'path' ? rest.indexOf(`/${raw}`) + 1 : rest.indexOf(`${name}=${raw}`) + name.length + 1
    if (at <= (from === 'path' ? 0 : name.length)) continue
    parts.push({ text: rest.slice(0, at), isParameter: false }, { text: raw, isParameter: true })
    rest = rest.slice(at + raw.length)
  }
  return [...parts, { text: rest, isParameter: false }]
}
