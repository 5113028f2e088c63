/** The part of the Templates area that is in its address. */
import { useCallback } from 'react'
import { useSearchParams } from 'react-router'
import { WIDTHS } from './page-preview.tsx'
import type { Scheme } from './restyle.ts'
import { TABS, type Tab } from './template-tabs.tsx'

export interface PlaceInArea {
  /** The open document. */
  open: string | undefined
  line: number | undefined
  /** The address of the preview, if one was chosen. */
  path: string | undefined
  width: number
  scheme: Scheme
  tab: Tab
  /** Which of several renderings of the template on the page. */
  time: number
}

const DEFAULTS: Partial<Record<keyof PlaceInArea, unknown>> = {
  width: 600,
  scheme: 'light',
  tab: 'values',
  time: 1,
}

export function usePlace(): { place: PlaceInArea; change(changes: Partial<PlaceInArea>): void } {
  const [parameters, setParameters] = useSearchParams()
  const width = Number(parameters.get('width'))
  const place: PlaceInArea = {
    open: parameters.get('open') ?? undefined,
    line: Number(parameters.get('line')) || undefined,
    path: parameters.get('path') ?? undefined,
    width: WIDTHS.find((one) => one === width) ?? 600,
    scheme: parameters.get('scheme') === 'dark' ? 'dark' : 'light',
    tab: TABS.find((one) => one === parameters.get('tab')) ?? 'values',
    time: Number(parameters.get('time')) || 1,
  }
  const change = useCallback(
    (changes: Partial<PlaceInArea>) =>
      setParameters((known) => {
        const next = new URLSearchParams(known)
        for (const [name, value] of Object.entries(changes)) {
          if (value === undefined || value === DEFAULTS[name as keyof PlaceInArea]) next.delete(name)
          else next.set(name, String(value))
        }
        return next
      }),
    [setParameters],
  )
  return { place, change }
}
