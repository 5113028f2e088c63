/** The Routes area: the routes in the order in which they are tried, and tools for addresses. */
import { Button, Segmented } from 'antd'
import { useRef, useState } from 'react'
import { useSearchParams } from 'react-router'
import { orderRoutes } from '../../../core/blog/edit.ts'
import type { RouteSummary } from '../../../contract/routes.ts'
import { useRead } from '../../api/queries.ts'
import { useChecks } from '../../shared/changes/checks.ts'
import { useChanges } from '../../shared/changes/use-changes.ts'
import { DocumentEditor } from '../../shared/editor/document-editor.tsx'
import { focusLater } from '../../shared/focus/focus.ts'
import { AddRoute } from './add-route.tsx'
import { BuildAddress } from './build-address.tsx'
import { NotFoundAddresses } from './not-found-addresses.tsx'
import { RouteDetail } from './route-detail.tsx'
import { RouteList } from './route-list.tsx'
import { RouteNotes } from './route-notes.tsx'
import { TestAddresses } from './test-addresses.tsx'
import { words } from './words.ts'
import './routes.css'

/** `settings` is blog.yaml, with the address policy and the rules for slugs. */
const VIEWS = ['plates', 'yaml', 'settings'] as const
const SIDES = ['test', 'build', 'not-found'] as const
type Side = (typeof SIDES)[number]

export function RoutesScreen() {
  const [parameters, setParameters] = useSearchParams()
  const routes = useRead('GET /api/routes', {})
  const { report } = useChecks()
  const { edit } = useChanges()
  const [isAdding, setAdding] = useState(false)
  const pane = useRef<HTMLElement>(null)
  const list = routes.data ?? []
  const view = VIEWS.find((one) => one === parameters.get('view')) ?? 'plates'
  const open = list.find((one) => one.name === parameters.get('route'))
  const side = SIDES.find((one) => one === parameters.get('side')) ?? 'test'
  const change = (name: string, value: string | null) =>
    setParameters((known) => {
      const next = new URLSearchParams(known)
      if (value === null) next.delete(name)
      else next.set(name, value)
      return next
    })
  /** Closes the open route. Its row in the list has the focus then, or the title if it was deleted. */
  const close = () => {
    const row = pane.current?.querySelector<HTMLElement>('.whole[aria-current]')
    change('route', null)
    focusLater(() => (row?.isConnected ? row : pane.current?.querySelector<HTMLElement>('h1')))
  }
  const findings = (report?.findings ?? []).filter(
    (one) => one.place?.document === 'routes.yaml' && one.dismissed === null,
  )
  const reorder = (names: readonly string[], moved: string) =>
    edit('routes.yaml', (text) => orderRoutes(text, names), words.moved(moved))
  const counted = list.reduce((sum, one) => sum + (one.addresses ?? 0), 0)
  return (
    <main className="routes">
      <section ref={pane} className="pane" aria-label={words.list}>
        <header>
          <h1 tabIndex={-1}>{words.title}</h1>
          <span>{words.summary(list.length, counted)}</span>
          <span className="grow" />
          <Segmented
            size="small"
            aria-label={words.view}
            value={view}
            options={VIEWS.map((value) => ({ value, label: words.views[value] }))}
            onChange={(value) => change('view', value === 'plates' ? null : value)}
          />
          <Button onClick={() => setAdding(true)}>{words.add}</Button>
        </header>
        {view !== 'plates' ? (
          <DocumentEditor
            key={view}
            path={view === 'yaml' ? 'routes.yaml' : 'blog.yaml'}
            line={Number(parameters.get('line')) || (view === 'yaml' ? open?.line : undefined) || undefined}
            height="100%"
          />
        ) : (
          <div className="scroll">
            <RouteList
              routes={list}
              findings={findings}
              open={open?.name}
              choose={(name) => change('route', name)}
              reorder={(names, moved) => void reorder(names, moved)}
            />
            {list.length === 0 && !routes.isPending ? <p className="quiet small">{words.empty}</p> : null}
            <RouteNotes
              findings={findings}
              onApplied={() => focusLater(() => pane.current?.querySelector<HTMLElement>('h1'))}
            />
          </div>
        )}
      </section>
      <section className="pane" aria-label={open ? words.detail.label(open.name) : words.addresses}>
        {open ? (
          <RouteDetail
            key={open.name}
            route={open}
            all={list}
            close={close}
            renamed={(name) => change('route', name)}
          />
        ) : (
          <>
            <header>
              <Segmented
                size="small"
                aria-label={words.sides}
                value={side}
                options={SIDES.map((value) => ({ value, label: words.side[value] }))}
                onChange={(value: Side) => change('side', value === 'test' ? null : value)}
              />
            </header>
            <div className="scroll">
              {side === 'test' ? <TestAddresses start={exampleLines(list)} /> : null}
              {side === 'build' ? <BuildAddress routes={list} /> : null}
              {side === 'not-found' ? <NotFoundAddresses /> : null}
            </div>
          </>
        )}
      </section>
      {isAdding ? (
        <AddRoute
          taken={list.map((one) => one.name)}
          close={() => setAdding(false)}
          onCreated={(name) => {
            setAdding(false)
            change('route', name)
            focusLater(() => pane.current?.querySelector<HTMLElement>('.whole[aria-current]'))
          }}
        />
      ) : null}
    </main>
  )
}

/** Returns an existing address and misspelled forms of it: the first test shows which of them are redirected. */
function exampleLines(routes: readonly RouteSummary[]): string {
  const usual = routes
    .filter((one) => one.example !== null && one.redirect === null && one.path.lastIndexOf('/') > 0)
    .sort(
      (a, b) =>
        Number(endsWithParameter(b)) - Number(endsWithParameter(a)) ||
        (b.addresses ?? 0) - (a.addresses ?? 0),
    )[0]?.example
  if (!usual) return '/'
  const [, first = '', ...rest] = usual.split('/')
  const capitals = usual.replace(/(^|[/-])[a-z]/g, (letter) => letter.toUpperCase())
  return [usual, capitals, `${usual}/`, `/${first.slice(0, -1)}/${rest.join('/')}`]
    .filter((line, index, lines) => lines.indexOf(line) === index)
    .join('\n')
}

const endsWithParameter = ({ path }: RouteSummary) => /\/:\w+$/.test(path)
