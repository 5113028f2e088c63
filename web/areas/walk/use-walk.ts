/** The state of the Walk area: what is walked, which part of it is in the address, and what it is compared with. */
import { keepPreviousData } from '@tanstack/react-query'
import { useCallback } from 'react'
import { useSearchParams } from 'react-router'
import { create } from 'zustand'
import type { Accepts, WalkRecord } from '../../../contract/walk-record.ts'
import { useRead } from '../../api/queries.ts'

export const WIDTHS = [390, 820, 1080] as const
export const VIEWS = ['page', 'source', 'headers', 'changes'] as const
export type View = (typeof VIEWS)[number]
/** A commenter is a reader who also sends the form of the page. */
export type Watcher = WalkRecord['as'] | 'commenter'

const WATCHERS: readonly Watcher[] = ['reader', 'author', 'commenter']

export interface WalkAddress {
  path: string
  as: Watcher
  accepts: Accepts
  /** Whether stored fragments are used. */
  kept: boolean
  width: number
  view: View
  /** What is shown beside the page; null where the address does not say. */
  side: 'request' | 'steps' | null
  /** The document that is open in the editor. */
  edit: string | null
  /** The line to scroll to. */
  line: number | undefined
}

const DEFAULTS: Partial<Record<keyof WalkAddress, unknown>> = {
  as: 'reader',
  accepts: 'html',
  kept: true,
  width: 1080,
  view: 'page',
}

export function useWalkAddress(start: string): {
  address: WalkAddress
  change(changes: Partial<WalkAddress>): void
} {
  const [parameters, setParameters] = useSearchParams()
  const width = Number(parameters.get('width'))
  const line = Number(parameters.get('line'))
  const address: WalkAddress = {
    path: parameters.get('path') ?? start,
    as: WATCHERS.find((one) => one === parameters.get('as')) ?? 'reader',
    accepts: parameters.get('accepts') === 'json' ? 'json' : 'html',
    kept: parameters.get('kept') !== 'false',
    width: WIDTHS.find((one) => one === width) ?? 1080,
    view: VIEWS.find((one) => one === parameters.get('view')) ?? 'page',
    side: (['request', 'steps'] as const).find((one) => one === parameters.get('side')) ?? null,
    edit: parameters.get('edit'),
    line: line > 0 ? line : undefined,
  }
  const change = useCallback(
    (changes: Partial<WalkAddress>) => {
      setParameters((known) => {
        const next = new URLSearchParams(known)
        if (!next.has('path')) next.set('path', start)
        for (const [name, value] of Object.entries(changes)) {
          if (value === null || value === undefined || value === DEFAULTS[name as keyof WalkAddress])
            next.delete(name)
          else next.set(name, String(value))
        }
        return next
      })
    },
    [setParameters, start],
  )
  return { address, change }
}

export const useWalk = ({ path, as, accepts, kept }: WalkAddress) =>
  useRead(
    'GET /api/walk',
    {
      query: {
        path,
        as: as === 'author' ? 'author' : 'reader',
        accepts,
        ...(kept ? {} : { kept: 'false' as const }),
      },
    },
    { placeholderData: keepPreviousData, staleTime: Infinity, gcTime: 0 },
  )

export interface ComparedWalk {
  record: WalkRecord
  /** Which walk it is, e.g. “the walk at 10:05:09”. */
  which: string
  /** Whether a save chose it, so that it is dropped as soon as another address is walked. */
  isFromSave: boolean
}

/** The walk with which later walks are compared. */
export const useComparison = create<{
  compared: ComparedWalk | null
  compareWith(compared: ComparedWalk | null): void
}>((set) => ({
  compared: null,
  compareWith: (compared) => set({ compared }),
}))
