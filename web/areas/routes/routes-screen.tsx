/** Routes: which address is answered by what, in the order in which they are tried. */
import { useQuery } from '@tanstack/react-query'
import { Button, Segmented } from 'antd'
import { useState } from 'react'
import { useSearchParams } from 'react-router'
import { orderRoutes } from '../../../core/blog/edit.ts'
import type { RouteSummary } from '../../../contract/operations.ts'
import { call } from '../../api/client.ts'
import { storedDocument, useApply } from '../../shared/changes/apply.ts'
import { useChecks } from '../../shared/changes/checks.ts'
import { DocumentEditor } from '../../shared/editor/document-editor.tsx'
import { plural } from '../../shared/words/words.ts'
import { AddRoute } from './add-route.tsx'
import { BuildAddress } from './build-address.tsx'
import { RouteDetail } from './route-detail.tsx'
import { RouteList } from './route-list.tsx'
import { RouteNotes } from './route-notes.tsx'
import { TryAddresses } from './try-addresses.tsx'
import { UnansweredAddresses } from './unanswered-addresses.tsx'
import './routes.css'

/** `settings` hold the address policy and the rules for slugs. */
const VIEWS = [
  { value: 'plates', label: 'Plates' },
  { value: 'yaml', label: 'YAML' },
  { value: 'settings', label: 'Settings' },
] as const

const SIDES = [
  { value: 'try', label: 'Try addresses' },
  { value: 'build', label: 'Build one' },
  { value: 'vain', label: 'Asked in vain' },
] as const
type Side = (typeof SIDES)[number]['value']

export function RoutesScreen() {
  const [parameters, setParameters] = useSearchParams()
  const routes = useQuery({ queryKey: ['routes'], queryFn: () => call('GET /api/routes', {}) })
  const { report } = useChecks()
  const { save } = useApply()
  const [adding, setAdding] = useState(false)
  const list = routes.data ?? []
  const view = VIEWS.find((one) => one.value === parameters.get('view'))?.value ?? 'plates'
  const open = list.find((one) => one.name === parameters.get('route'))
  const side = SIDES.find((one) => one.value === parameters.get('side'))?.value ?? 'try'
  const change = (name: string, value: string | null) =>
    setParameters((known) => {
      const next = new URLSearchParams(known)
      if (value === null) next.delete(name)
      else next.set(name, value)
      return next
    })
  const findings = (report?.findings ?? []).filter(
    (one) => one.place?.document === 'routes.yaml' && one.aside === null,
  )
  const reorder = async (names: readonly string[], moved: string) => {
    const { text } = await storedDocument('routes.yaml')
    const ordered = orderRoutes(text, names)
    if (ordered !== undefined && ordered !== text)
      await save({ 'routes.yaml': ordered }, `Route “${moved}” was moved`)
  }
  const counted = list.reduce((sum, one) => sum + (one.addresses ?? 0), 0)
  return (
    <main className="routes">
      <section className="pane" aria-label="Routes in order">
        <header>
          <h1>Routes</h1>
          <span>
            tried from top to bottom · {plural(list.length, 'pattern')}{' '}
            {list.length === 1 ? 'answers' : 'answer'} {plural(counted, 'address', 'addresses')}
          </span>
          <span className="grow" />
          <Segmented
            size="small"
            aria-label="How the routes are shown"
            value={view}
            options={[...VIEWS]}
            onChange={(value) => change('view', value === 'plates' ? null : value)}
          />
          <Button onClick={() => setAdding(true)}>Add a route</Button>
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
            {list.length === 0 && !routes.isPending ? (
              <p className="quiet small">No route yet: every address answers 404. Add the first one.</p>
            ) : null}
            <RouteNotes findings={findings} />
          </div>
        )}
      </section>
      <section className="pane" aria-label={open ? `Route ${open.name}` : 'Addresses'}>
        {open ? (
          <RouteDetail key={open.name} route={open} all={list} close={() => change('route', null)} />
        ) : (
          <>
            <header>
              <Segmented
                size="small"
                aria-label="What to do with addresses"
                value={side}
                options={[...SIDES]}
                onChange={(value: Side) => change('side', value === 'try' ? null : value)}
              />
            </header>
            <div className="scroll">
              {side === 'try' ? <TryAddresses start={exampleLines(list)} /> : null}
              {side === 'build' ? <BuildAddress routes={list} /> : null}
              {side === 'vain' ? <UnansweredAddresses /> : null}
            </div>
          </>
        )}
      </section>
      {adding ? (
        <AddRoute
          taken={list.map((one) => one.name)}
          close={() => setAdding(false)}
          added={(name) => {
            setAdding(false)
            change('route', name)
          }}
        />
      ) : null}
    </main>
  )
}

/** A real address, and what people make of it: the first trial shows what is forgiven and what is not. */
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
