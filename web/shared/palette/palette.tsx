/** The palette: finds addresses to walk and documents to open, and lists the keyboard shortcuts. */
import { Input, Modal } from 'antd'
import { useDeferredValue, useEffect, useState } from 'react'
import { useNavigate } from 'react-router'
import { create } from 'zustand'
import { useRead } from '../../api/queries.ts'
import { documentLink } from '../editor/documents.ts'
import { Plate } from '../marks/marks.tsx'
import { words } from '../words/words.ts'
import './palette.css'

type Page = 'find' | 'keys'
export const usePalette = create<{ page: Page | null; open(page: Page): void; close(): void }>((set) => ({
  page: null,
  open: (page) => set({ page }),
  close: () => set({ page: null }),
}))

const { palette } = words

const isTyping = (target: EventTarget | null) =>
  target instanceof HTMLElement &&
  (target.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName))

export function Palette() {
  const { page, open, close } = usePalette()
  useEffect(() => {
    const listen = (event: KeyboardEvent) => {
      if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === 'k') {
        event.preventDefault()
        open('find')
      } else if (event.key === '?' && !isTyping(event.target)) open('keys')
    }
    window.addEventListener('keydown', listen)
    return () => window.removeEventListener('keydown', listen)
  }, [open])
  return (
    <Modal
      open={page !== null}
      onCancel={close}
      footer={null}
      closable={page === 'keys'}
      destroyOnHidden
      width={560}
      title={page === 'keys' ? words.frame.keyboard : null}
      style={{ top: 90 }}
    >
      {page === 'find' ? <Find close={close} /> : null}
      {page === 'keys' ? (
        <dl className="shortcuts">
          {palette.shortcuts.map(([keys, what]) => (
            <div key={keys}>
              <dt>
                <kbd>{keys}</kbd>
              </dt>
              <dd>{what}</dd>
            </div>
          ))}
        </dl>
      ) : null}
    </Modal>
  )
}

const CONTENT: readonly [string, string][] = [
  ['posts', 'Posts'],
  ['pages', 'Pages'],
  ['categories', 'Categories'],
  ['tags', 'Tags'],
  ['authors', 'Authors'],
  ['images', 'Images'],
  ['html', palette.allowedHtml],
]

interface Found {
  key: string
  label: string
  kind: string
  pattern?: string
  to: string
}

function Find({ close }: { close(): void }) {
  const navigate = useNavigate()
  const [text, setText] = useState('')
  const [chosen, setChosen] = useState(0)
  const routes = useRead('GET /api/routes', {})
  const documents = useRead('GET /api/documents', {})
  const wanted = useDeferredValue(text.trim())
  const lines = useRead(
    'GET /api/documents/find',
    { query: { text: wanted } },
    { enabled: wanted.length >= 2 && !wanted.startsWith('/') },
  )
  const everything: Found[] = [
    ...(routes.data ?? []).flatMap(({ name, path, example }) =>
      example === null
        ? []
        : [
            {
              key: `route ${name}`,
              label: example,
              kind: name,
              pattern: path,
              to: `/walk?path=${encodeURIComponent(example)}`,
            },
          ],
    ),
    { key: 'comments', label: words.frame.comments, kind: palette.area, to: '/comments' },
    ...CONTENT.map(([to, label]) => ({ key: to, label, kind: palette.content, to: `/content/${to}` })),
    ...(documents.data ?? []).map(({ path }) => ({
      key: path,
      label: path,
      kind: palette.document,
      to: documentLink(path),
    })),
  ]
  const found = everything.filter((one) =>
    `${one.label} ${one.kind}`.toLowerCase().includes(text.toLowerCase()),
  )
  for (const one of wanted.length >= 2 ? (lines.data?.found ?? []) : [])
    found.push({
      key: `${one.document}:${one.line}`,
      label: one.text,
      kind: `${one.document}:${one.line}`,
      to: documentLink(one.document, one.line),
    })
  const left = (lines.data?.total ?? 0) - (lines.data?.found.length ?? 0)
  if (text.startsWith('/'))
    found.unshift({
      key: 'typed',
      label: text,
      kind: palette.walkIt,
      to: `/walk?path=${encodeURIComponent(text)}`,
    })
  const go = (one: Found | undefined) => {
    if (!one) return
    close()
    void navigate(one.to)
  }
  const onKeyDown = (event: React.KeyboardEvent) => {
    const step = { ArrowDown: 1, ArrowUp: -1 }[event.key]
    if (step !== undefined) {
      event.preventDefault()
      setChosen((known) => Math.min(Math.max(known + step, 0), found.length - 1))
    } else if (event.key === 'Enter') go(found[chosen])
  }
  return (
    <div className="find">
      <Input
        autoFocus
        size="large"
        placeholder={palette.placeholder}
        aria-label={palette.label}
        value={text}
        onChange={(event) => {
          setText(event.target.value)
          setChosen(0)
        }}
        onKeyDown={onKeyDown}
      />
      <ul role="listbox" aria-label={palette.results}>
        {found.map((one, index) => (
          <li
            key={one.key}
            role="option"
            aria-selected={index === chosen}
            onMouseEnter={() => setChosen(index)}
            onClick={() => go(one)}
            ref={(element) => {
              if (index === chosen) element?.scrollIntoView({ block: 'nearest' })
            }}
          >
            <code>{one.label}</code>
            {one.pattern ? <Plate pattern={one.pattern} /> : <span className="muted">{one.kind}</span>}
          </li>
        ))}
      </ul>
      {left > 0 ? <p className="muted">{palette.more(left)}</p> : null}
      {found.length === 0 && !routes.isPending && !lines.isFetching ? (
        <p className="muted">{palette.nothing(text)}</p>
      ) : null}
    </div>
  )
}
