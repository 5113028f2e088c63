/** Builds an address from a route's name and parameters, as a template does. */
import { Input, Select } from 'antd'
import { useState } from 'react'
import { Link } from 'react-router'
import type { RouteSummary } from '../../../contract/routes.ts'
import { useRead } from '../../api/queries.ts'
import { Copy, Plate } from '../../shared/marks/marks.tsx'
import { words } from './words.ts'

const text = words.build

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
  const built = useRead(
    'POST /api/routes/build',
    { body: { route: route?.name ?? '', parameters: given } },
    { enabled: route !== undefined, placeholderData: (known) => known },
  )
  if (!route) return <p className="quiet small">{text.none}</p>
  return (
    <div className="padded build">
      <label>
        {text.route}
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
            <code>{built.data.template}</code> <Copy text={built.data.template} what={text.theExpression} />
          </p>
          {built.data.path === null ? (
            <p className="failed">{built.data.message}</p>
          ) : (
            <p className="row">
              <Plate pattern={built.data.path} />
              <Link to={`/walk?path=${encodeURIComponent(built.data.path)}`} className="link">
                {text.walk}
              </Link>
              <Copy text={built.data.path} what={text.theAddress} />
            </p>
          )}
        </div>
      ) : null}
    </div>
  )
}

/** Returns the value that a parameter has in the route's example address. */
function exampleValue(route: RouteSummary | undefined, example: string, name: string): string {
  const pattern = (route?.path ?? '').split('/')
  const at = pattern.findIndex((part) => part.startsWith(`:${name}`))
  const parts = example.split('/')
  if (at === -1) return ''
  return at === pattern.length - 1 ? parts.slice(at).join('/') : (parts[at] ?? '')
}
