/** What a query is tried with, as a part of the workbench's address: a link, a reload and “back” show the same rows. */
import { useEffect, useEffectEvent, useState } from 'react'
import { useSearchParams } from 'react-router'
import { PARAMETER } from '../../shared/queries/query-address.ts'
import { useSettled, type Trial } from './use-trial.ts'

export const VIEWS = [
  ['plan', 'How it runs'],
  ['sql', 'SQL'],
  ['code', 'TypeORM'],
  ['growth', 'As it grows'],
] as const
export type View = (typeof VIEWS)[number][0]

/** Parameters, the page or the cursor, as whom, and which of the views behind the rows is open. */
export interface Asked extends Omit<Trial, 'name' | 'text'> {
  view: View
}

export type AskedChanges = { [Key in keyof Asked]?: Asked[Key] | undefined }

const LONGEST = { name: 60, value: 500, cursor: 4_000, page: 1_000_000 }

export function readAsked(address: URLSearchParams): Asked {
  const page = Number(address.get('page'))
  const cursor = address.get('cursor')
  return {
    parameters: Object.fromEntries(
      [...address].flatMap(([key, value]) => {
        const name = key.startsWith(PARAMETER) ? key.slice(PARAMETER.length) : ''
        return name === '' || name.length > LONGEST.name ? [] : [[name, value.slice(0, LONGEST.value)]]
      }),
    ),
    page: Number.isInteger(page) && page >= 1 && page <= LONGEST.page ? page : 1,
    as: address.get('as') === 'author' ? 'author' : 'reader',
    view: VIEWS.find(([view]) => view === address.get('view'))?.[0] ?? 'plan',
    ...(cursor === null || cursor.length > LONGEST.cursor ? {} : { cursor }),
  }
}

/** The address with it; what is as usual is left out, and what else stands there stays. */
export function writeAsked(
  address: URLSearchParams,
  { parameters, page, as, view, cursor }: Asked,
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

/** Changes, or what they are, given what is asked at that moment. */
export type ChangeAsked = (changes: AskedChanges | ((known: Asked) => AskedChanges)) => void

export function useAsked(): { asked: Asked; change: ChangeAsked } {
  const [address, setAddress] = useSearchParams()
  const [asked, setAsked] = useState(() => readAsked(address))
  // Browsers let the address be changed only so often: it follows when typing rests.
  const settled = useSettled(asked)
  const follow = useEffectEvent(() => {
    const next = writeAsked(address, settled)
    if (next.toString() !== address.toString()) setAddress(next, { replace: true })
  })
  useEffect(() => follow(), [settled])
  return {
    asked,
    change: (changes) =>
      setAsked((before) => {
        const { cursor, ...known } = before
        const wanted = typeof changes === 'function' ? changes(before) : changes
        // Other parameters have other rows: their pages begin at the beginning.
        const next = 'cursor' in wanted ? wanted.cursor : 'parameters' in wanted ? undefined : cursor
        return { ...known, ...wanted, ...(next === undefined ? {} : { cursor: next }) } as Asked
      }),
  }
}
