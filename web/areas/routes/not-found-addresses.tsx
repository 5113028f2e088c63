/** Addresses that were answered with 404, how often, and the most similar existing address. */
import { Button } from 'antd'
import { useRef } from 'react'
import { Link } from 'react-router'
import { addRoute } from '../../../core/blog/edit.ts'
import { useRead, useWrite } from '../../api/queries.ts'
import { useNotices } from '../../shared/changes/notices.tsx'
import { useChanges } from '../../shared/changes/use-changes.ts'
import { focusLater } from '../../shared/focus/focus.ts'
import { words } from './words.ts'

const text = words.notFound

/** How often the list is read, in milliseconds. */
const INTERVAL = 5_000

export function NotFoundAddresses() {
  const write = useWrite()
  const notices = useNotices()
  const { edit } = useChanges()
  const list = useRead('GET /api/not-found', {}, { refetchInterval: INTERVAL })
  const box = useRef<HTMLUListElement>(null)
  const dismiss = (path: string) =>
    write('DELETE /api/not-found', { query: { path } }).then(
      () => focusLater(() => box.current),
      notices.failed,
    )
  const redirect = async (from: string, to: string) => {
    const route = { name: redirectName(from), path: literalPattern(from), redirect: { to } }
    const isAdded = await edit(
      'routes.yaml',
      (yaml) => addRoute(yaml, route, firstName(yaml)),
      text.redirected(from, to),
    )
    if (isAdded) focusLater(() => box.current)
  }
  const all = list.data ?? []
  if (all.length === 0) return <p className="quiet small">{list.isPending ? text.loading : text.empty}</p>
  return (
    <ul className="trials" ref={box} tabIndex={-1} aria-label={text.label}>
      {all.map(({ path, times, nearest }) => (
        <li key={path}>
          <Link to={`/walk?path=${encodeURIComponent(path)}`} title={text.walk}>
            <code>{path}</code>
          </Link>
          <span className="number">{text.times(times)}</span>
          <span className="muted">
            {nearest ? (
              <>
                {text.nearest}{' '}
                <Link
                  to={`/walk?path=${encodeURIComponent(nearest.path)}`}
                  title={nearest.title ?? undefined}
                >
                  {nearest.path}
                </Link>{' '}
                <Button size="small" onClick={() => void redirect(path, nearest.path)}>
                  {text.redirect}
                </Button>
              </>
            ) : (
              text.noNearest
            )}{' '}
            <Button size="small" type="text" onClick={() => void dismiss(path)}>
              {text.dismiss}
            </Button>
          </span>
        </li>
      ))}
    </ul>
  )
}

/** The maximum length of a redirect's name that is derived from an address. */
const NAME_LIMIT = 50

const redirectName = (address: string): string =>
  `old${address
    .replace(/[^a-z0-9]+/gi, '-')
    .toLowerCase()
    .replace(/-$/, '')
    .slice(0, NAME_LIMIT)}`

/** Returns a pattern that matches only this address. */
const literalPattern = (address: string): string => address.replace(/[:*+?(){}\\]/g, '\\$&')

const firstName = (yaml: string) => /^- name: ([a-z0-9-]+)/m.exec(yaml)?.[1]
