/** One route: its addresses, and a form for it. */
import { useQuery } from '@tanstack/react-query'
import { Button, Pagination, Popconfirm, Segmented } from 'antd'
import { useState } from 'react'
import { Link } from 'react-router'
import { removeRoute } from '../../../core/blog/edit.ts'
import type { RouteSummary } from '../../../contract/operations.ts'
import { call } from '../../api/client.ts'
import { storedDocument, useApply } from '../../shared/changes/apply.ts'
import { Plate } from '../../shared/marks/marks.tsx'
import { plural } from '../../shared/words/words.ts'
import { ChangeSlug } from './change-slug.tsx'
import { RouteForm } from './route-form.tsx'

interface Props {
  route: RouteSummary
  all: readonly RouteSummary[]
  close(): void
}

export function RouteDetail({ route, all, close }: Props) {
  const [view, setView] = useState<'addresses' | 'form'>('addresses')
  const { save } = useApply()
  const remove = async () => {
    const { text } = await storedDocument('routes.yaml')
    const changed = removeRoute(text, route.name)
    if (
      changed !== undefined &&
      (await save({ 'routes.yaml': changed }, `Route “${route.name}” was taken out`))
    )
      close()
  }
  return (
    <>
      <header>
        <Plate pattern={route.path} />
        <span className="ink">{route.name}</span>
        <span className="grow" />
        <Button size="small" type="text" onClick={close} aria-label="Close the route">
          ✕
        </Button>
      </header>
      <div className="padded row">
        <Segmented
          size="small"
          aria-label="What to see of the route"
          value={view}
          options={[
            { value: 'addresses', label: 'Addresses' },
            { value: 'form', label: 'Edit' },
          ]}
          onChange={(value: 'addresses' | 'form') => setView(value)}
        />
        <span className="grow" />
        <Popconfirm
          title={`Take route “${route.name}” out?`}
          description="It can be undone."
          okText="Take it out"
          onConfirm={() => void remove()}
        >
          <Button size="small">Take it out</Button>
        </Popconfirm>
      </div>
      <div className="scroll">
        {view === 'addresses' ? (
          <Addresses route={route} />
        ) : (
          <RouteForm route={route} all={all} saved={() => setView('addresses')} />
        )}
      </div>
    </>
  )
}

/** What a slug in the last place of a pattern belongs to, by the query that reads it. */
function kindOf({
  queries,
  parameters,
}: RouteSummary): 'post' | 'page' | 'category' | 'tag' | 'author' | undefined {
  const sentence = queries[0]?.sentence ?? ''
  if (parameters.length !== 1) return undefined
  return (['post', 'page', 'category', 'tag', 'author'] as const).find((kind) =>
    new RegExp(`^one (?:\\w+ )?${kind} whose (?:slug|path) is :`).test(sentence),
  )
}

function Addresses({ route }: { route: RouteSummary }) {
  const [page, setPage] = useState(1)
  const [renaming, setRenaming] = useState<string | null>(null)
  const found = useQuery({
    queryKey: ['addresses', route.name, page],
    queryFn: () => call('GET /api/routes/addresses', { query: { route: route.name, page: String(page) } }),
    placeholderData: (known) => known,
  })
  const kind = kindOf(route)
  if (route.method === 'POST')
    return <p className="quiet small">It answers forms that are sent to it; nobody opens it.</p>
  if (route.redirect)
    return (
      <p className="quiet small">
        It leads to <code>{route.redirect.to}</code> with {route.redirect.status}.
      </p>
    )
  if (!found.data) return <p className="quiet small">Looking …</p>
  const { addresses, total, size } = found.data
  if (total === null)
    return (
      <p className="quiet small">
        No query says by equality which values lead somewhere, so its addresses cannot be listed: any may be
        asked.
      </p>
    )
  if (total === 0)
    return <p className="quiet small">It has no address now: no row gives its parameters a value.</p>
  return (
    <>
      <p className="padded muted">
        {plural(total, 'address', 'addresses')}
        {route.addresses !== null && route.addresses > total
          ? `, ${route.addresses} with the pages of its listings`
          : ''}
      </p>
      <ul className="addresses">
        {addresses.map(({ path, title }) => (
          <li key={path}>
            <Link to={`/walk?path=${encodeURIComponent(path)}`} title={`Walk ${path}`}>
              <code>{path}</code>
            </Link>
            {title === null ? null : <span className="muted">{title}</span>}
            {kind ? (
              <button
                className="link muted"
                onClick={() => setRenaming(renaming === path ? null : path)}
                aria-expanded={renaming === path}
              >
                change
              </button>
            ) : null}
            {kind && renaming === path ? (
              <ChangeSlug
                kind={kind}
                own={
                  kind === 'page' ? pathValue(route, path) : (path.split('/').filter(Boolean).at(-1) ?? '')
                }
                done={() => setRenaming(null)}
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

/** A page's own path: what stands in the address in place of the parameter. */
const pathValue = (route: RouteSummary, path: string) =>
  path.slice(route.path.indexOf(':')).replace(/\/$/, '')
