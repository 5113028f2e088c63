/** The address line: what is asked for, with what varies in it marked, and addresses worth trying. */
import { useQuery } from '@tanstack/react-query'
import { Button } from 'antd'
import { useEffect, useRef, useState } from 'react'
import type { WalkRecord } from '../../../contract/operations.ts'
import { call } from '../../api/client.ts'

interface Props {
  path: string
  origin: string
  record: WalkRecord | undefined
  busy: boolean
  walk(path: string, edit?: string): void
  hold(): void
}

export function AddressLine({ path, origin, record, busy, walk, hold }: Props) {
  const [text, setText] = useState(path)
  const [known, setKnown] = useState(path)
  const [focused, setFocused] = useState(false)
  const input = useRef<HTMLInputElement>(null)
  if (known !== path) {
    setKnown(path)
    setText(path)
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
  const suggestions = useQuery({ queryKey: ['suggestions'], queryFn: () => call('GET /api/suggestions', {}) })
  const host = origin.replace(/^https?:\/\//, '')
  return (
    <form
      className="address"
      onSubmit={(event) => {
        event.preventDefault()
        const wanted = text.trim().replace(origin, '')
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
            value={text}
            spellCheck={false}
            autoComplete="off"
            aria-label="Address to walk"
            onChange={(event) => setText(event.target.value)}
            onFocus={() => setFocused(true)}
            onBlur={() => setFocused(false)}
          />
          <div className="marked" aria-hidden="true">
            {markVarying(text, record).map((part, index) =>
              part.varies ? <em key={index}>{part.text}</em> : <span key={index}>{part.text}</span>,
            )}
          </div>
        </div>
        <div className="suggestions">
          {(suggestions.data ?? []).map((one) => (
            <button
              type="button"
              key={one.label}
              className="chip"
              title={one.document === null ? one.path : `${one.path}, opens ${one.document}`}
              onClick={() => walk(one.path, one.document ?? undefined)}
            >
              {one.label}
            </button>
          ))}
        </div>
      </div>
      <Button type="primary" htmlType="submit" size="large" loading={busy}>
        Walk it ↵
      </Button>
      <Button
        size="large"
        onClick={hold}
        disabled={!record}
        title="Keep this walk, to compare the next ones with it (H)"
      >
        Hold as “before”
      </Button>
    </form>
  )
}

/** Splits an address so that the parameters of its walk can be marked. */
function markVarying(text: string, record: WalkRecord | undefined): { text: string; varies: boolean }[] {
  if (record?.target !== text) return [{ text, varies: false }]
  const parts: { text: string; varies: boolean }[] = []
  let rest = text
  for (const { raw, from, name } of record.parameters) {
    if (raw === null || raw === '') continue
    const at =
      from === 'path' ? rest.indexOf(`/${raw}`) + 1 : rest.indexOf(`${name}=${raw}`) + name.length + 1
    if (at <= (from === 'path' ? 0 : name.length)) continue
    parts.push({ text: rest.slice(0, at), varies: false }, { text: raw, varies: true })
    rest = rest.slice(at + raw.length)
  }
  return [...parts, { text: rest, varies: false }]
}
