/** How a query is run, as part of the workbench's address: a link, a reload and “back” show the same rows. */
import { useEffect, useEffectEvent, useState } from 'react'
import { useSearchParams } from 'react-router'
import { PARAMETER } from '../../shared/queries/query-address.ts'
import { useDebounced, type RunRequest } from './use-query-run.ts'

export const VIEWS = ['plan', 'sql', 'code', 'growth'] as const
export type View = (typeof VIEWS)[number]

/** Parameters, the page or the cursor, reader or author, and the open view beside the rows. */
export interface RunSettings extends Omit<RunRequest, 'name' | 'text'> {
  view: View
}

export type SettingChanges = { [Key in keyof RunSettings]?: RunSettings[Key] | undefined }

/** Limits of what is read from an address. */
const LIMIT = { name: 60, value: 500, cursor: 4_000, page: 1_000_000 }

export function readSettings(address: URLSearchParams): RunSettings {
  const page = Number(address.get('page'))
  const cursor = address.get('cursor')
  return {
    parameters: Object.fromEntries(
      [...address].flatMap(([key, value]) => {
        const name = key.startsWith(PARAMETER) ? key.slice(PARAMETER.length) : ''
        return name === '' || name.length > LIMIT.name ? [] : [[name, value.slice(0, LIMIT.value)]]
      }),
    ),
    page: Number.isInteger(page) && page >= 1 && page <= LIMIT.page ? page : 1,
    as: address.get('as') === 'author' ? 'author' : 'reader',
    view: VIEWS.find((view) => view === address.get('view')) ?? 'plan',
    ...(cursor === null || cursor.length > LIMIT.cursor ? {} : { cursor }),
  }
}

/** Returns the address with the settings. Defaults are left out, and other parameters stay. */
export function writeSettings(
  address: URLSearchParams,
  { parameters, page, as, view, cursor }: RunSettings,
): URLSearchParams {
  const next = new URLSearchParams(
    [...address].filter(
      ([key]) => !key.startsWith(PARAMETER) && !['page', 'as', 'view', 'cursor'].includes(key),
    ),
  )
  for (const [name, value] of Object.entries(parameters)) next.set(`${PARAMETER}${name}`, value)
  if (page !== 1) next.set('page', String(page))
  if (as !== 'reader') next.set('as', as)
  if (view !== 'plan') next.set('view', view)
  if (cursor !== undefined) next.set('cursor', cursor)
  return next
}

/** Takes changes, or a function that returns them for the current settings. */
export type ChangeSettings = (changes: SettingChanges | ((current: RunSettings) => SettingChanges)) => void

export function useRunSettings(): { settings: RunSettings; change: ChangeSettings } {
  const [address, setAddress] = useSearchParams()
  const [settings, setSettings] = useState(() => readSettings(address))
  // Browsers limit how often the address may change, so it follows once typing pauses.
  const debounced = useDebounced(settings)
  const follow = useEffectEvent(() => {
    const next = writeSettings(address, debounced)
    if (next.toString() !== address.toString()) setAddress(next, { replace: true })
  })
  useEffect(() => follow(), [debounced])
  return {
    settings,
    change: (changes) =>
      setSettings((before) => {
        const { cursor, ...current } = before
        const wanted = typeof changes === 'function' ? changes(before) : changes
        // A cursor is valid only for the parameters that it was made for.
        const next = 'cursor' in wanted ? wanted.cursor : 'parameters' in wanted ? undefined : cursor
        return { ...current, ...wanted, ...(next === undefined ? {} : { cursor: next }) } as RunSettings
      }),
  }
}
