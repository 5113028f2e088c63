/** One route: its addresses, and a form to edit it. */
import { Button, Pagination, Popconfirm, Segmented } from 'antd'
import { useRef, useState } from 'react'
import { Link } from 'react-router'
import { removeRoute } from '../../../core/blog/edit.ts'
import type { RouteSummary } from '../../../contract/routes.ts'
import { useRead } from '../../api/queries.ts'
import { useChanges } from '../../shared/changes/use-changes.ts'
import { focusLater } from '../../shared/focus/focus.ts'
import { Plate } from '../../shared/marks/marks.tsx'
import { words as shared } from '../../shared/words/words.ts'
import { ChangeSlug } from './change-slug.tsx'
import { RouteForm } from './route-form.tsx'
import { words } from './words.ts'

const text = words.detail

interface Props {
  route: RouteSummary
  all: readonly RouteSummary[]
  close(): void
  /** Called after the route was saved under another name. */
  renamed(name: string): void
}

export function RouteDetail({ route, all, close, renamed }: Props) {
  const [view, setView] = useState<'addresses' | 'form'>('addresses')
  const { edit } = useChanges()
  const title = useRef<HTMLSpanElement>(null)
  const remove = async () => {
    const isDeleted = await edit(
      'routes.yaml',
      (yaml) => removeRoute(yaml, route.name),
      text.deleted(route.name),
    )
    if (isDeleted) close()
  }
  const onSaved = (name: string) => {
    setView('addresses')
    if (name !== route.name) renamed(name)
    focusLater(() => title.current)
  }
  return (
    <>
      <header>
        <Plate pattern={route.path} />
        <span className="ink" ref={title} tabIndex={-1}>
          {route.name}
        </span>
        <span className="grow" />
        <Button size="small" type="text" onClick={close} aria-label={text.close}>
          ✕
        </Button>
      </header>
      <div className="padded row">
        <Segmented
          size="small"
          aria-label={text.view}
          value={view}
          options={[
            { value: 'addresses', label: text.addresses },
            { value: 'form', label: text.edit },
          ]}
          onChange={(value: 'addresses' | 'form') => setView(value)}
        />
        <span className="grow" />
        <Popconfirm
          title={text.deleteTitle(route.name)}
          description={text.deleteNote}
          okText={shared.delete}
          cancelText={shared.cancel}
          onConfirm={() => void remove()}
        >
          <Button size="small">{shared.delete}</Button>
        </Popconfirm>
      </div>
      <div className="scroll">
        {view === 'addresses' ? (
          <Addresses route={route} />
        ) : (
          <RouteForm route={route} all={all} onSaved={onSaved} />
        )}
      </div>
    </>
  )
}

function Addresses({ route }: { route: RouteSummary }) {
  const [page, setPage] = useState(1)
  const [renaming, setRenaming] = useState<string | null>(null)
  const found = useRead(
    'GET /api/routes/addresses',
    { query: { route: route.name, page: String(page) } },
    { placeholderData: (known) => known },
  )
  const box = useRef<HTMLUListElement>(null)
  const kind = route.rows
  if (route.method === 'POST') return <p className="quiet small">{text.isPost}</p>
  if (route.redirect)
    return <p className="quiet small">{text.redirects(route.redirect.to, route.redirect.status)}</p>
  if (!found.data) return <p className="quiet small">{text.loading}</p>
  const { addresses, total, size } = found.data
  if (total === null) return <p className="quiet small">{text.unlimited}</p>
  if (total === 0) return <p className="quiet small">{text.none}</p>
  return (
    <>
      <p className="padded muted">
        {text.count(total, route.addresses !== null && route.addresses > total ? route.addresses : null)}
      </p>
      <ul className="addresses" ref={box} tabIndex={-1}>
        {addresses.map(({ path, title }) => (
          <li key={path}>
            <Link to={`/walk?path=${encodeURIComponent(path)}`} title={text.walk(path)}>
              <code>{path}</code>
            </Link>
            {title === null ? null : <span className="muted">{title}</span>}
            {kind ? (
              <button
                className="link muted"
                onClick={() => setRenaming(renaming === path ? null : path)}
                aria-expanded={renaming === path}
              >
                {kind === 'page' ? text.movePage : text.changeSlug}
              </button>
            ) : null}
            {kind && renaming === path ? (
              <ChangeSlug
                kind={kind}
                current={
                  kind === 'page' ? pathValue(route, path) : (path.split('/').filter(Boolean).at(-1) ?? '')
                }
                done={() => {
                  setRenaming(null)
                  focusLater(() => box.current)
                }}
              />
            ) : null}
          </li>
        ))}
      </ul>
      {total > size ? (
        <div className="padded">
          <Pagination
            size="small"
            current={page}
            total={total}
            pageSize={size}
            showSizeChanger={false}
            onChange={setPage}
          />
        </div>
      ) : null}
    </>
  )
}

/** Returns the path of a page: the value of the address's parameter. */
const pathValue = (route: RouteSummary, path: string) =>
  path.slice(route.path.indexOf(':')).replace(/\/$/, '')
