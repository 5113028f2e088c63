/** An address built from a route's name, as a template builds it. */
import { useQuery } from '@tanstack/react-query'
import { Input, Select } from 'antd'
import { useState } from 'react'
import { Link } from 'react-router'
import type { RouteSummary } from '../../../contract/operations.ts'
import { call } from '../../api/client.ts'
import { Copy, Plate } from '../../shared/marks/marks.tsx'

export function BuildAddress({ routes }: { routes: readonly RouteSummary[] }) {
  const [chosen, setChosen] = useState<string | null>(null)
  const [values, setValues] = useState<Record<string, string>>({})
  const route =
    routes.find((one) => one.name === chosen) ?? routes.find((one) => one.parameters.length > 0) ?? routes[0]
  const example = route?.example ?? ''
  const given = Object.fromEntries(
    (route?.parameters ?? []).flatMap(({ name }) => {
      const value = values[`${route?.name ?? ''} ${name}`] ?? exampleValue(route, example, name)
      return value === '' ? [] : [[name, value]]
    }),
  )
  const built = useQuery({
    queryKey: ['routes', 'build', route?.name, given],
    queryFn: () => call('POST /api/routes/build', { body: { route: route?.name ?? '', parameters: given } }),
    enabled: route !== undefined,
    placeholderData: (known) => known,
  })
  if (!route) return <p className="quiet small">There is no route to build from.</p>
  return (
    <div className="padded build">
      <label>
        Route
        <Select
          value={route.name}
          options={routes.map((one) => ({ value: one.name, label: one.name }))}
          onChange={setChosen}
          popupMatchSelectWidth={false}
        />
      </label>
      {route.parameters.map(({ name, type }) => (
        <label key={name}>
          <span>
            {name} <span className="muted">{type}</span>
          </span>
          <Input
            className="mono"
            value={values[`${route.name} ${name}`] ?? exampleValue(route, example, name)}
            onChange={(event) => setValues({ ...values, [`${route.name} ${name}`]: event.target.value })}
          />
        </label>
      ))}
      {built.data ? (
        <div aria-live="polite">
          <p>
            <code>{built.data.template}</code> <Copy text={built.data.template} what="the template’s words" />
          </p>
          {built.data.path === null ? (
            <p className="failed">{built.data.message}</p>
          ) : (
            <p className="row">
              <Plate pattern={built.data.path} />
              <Link to={`/walk?path=${encodeURIComponent(built.data.path)}`} className="link">
                walk it
              </Link>
              <Copy text={built.data.path} what="the address" />
            </p>
          )}
        </div>
      ) : null}
    </div>
  )
}

/** The value a parameter has in the route's example address. */
function exampleValue(route: RouteSummary | undefined, example: string, name: string): string {
  const pattern = (route?.path ?? '').split('/')
  const at = pattern.findIndex((part) => part.startsWith(`:${name}`))
  const parts = example.split('/')
  if (at === -1) return ''
  return at === pattern.length - 1 ? parts.slice(at).join('/') : (parts[at] ?? '')
}
