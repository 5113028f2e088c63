/** The Walk screen's data, and the part of its state that lives in the address. */
import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { useCallback } from 'react'
import { useSearchParams } from 'react-router'
import { create } from 'zustand'
import type { WalkRecord } from '../../../contract/operations.ts'
import { call } from '../../api/client.ts'
import type { Saved } from '../../shared/editor/use-document.ts'

export const WIDTHS = [390, 820, 1080] as const
export const VIEWS = ['page', 'source', 'headers', 'changes'] as const
export type View = (typeof VIEWS)[number]
export type Watcher = 'reader' | 'author'
/** What is asked for: the page, or what a program gets. */
export type Gets = WalkRecord['gets']

export interface WalkAddress {
  path: string
  as: Watcher
  gets: Gets
  width: number
  view: View
  /** The document open in the editor, and the line to go to. */
  edit: string | null
  line: number | undefined
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
    as: parameters.get('as') === 'author' ? 'author' : 'reader',
    gets: parameters.get('gets') === 'data' ? 'data' : 'page',
    width: WIDTHS.find((one) => one === width) ?? 1080,
    view: VIEWS.find((one) => one === parameters.get('view')) ?? 'page',
    edit: parameters.get('edit'),
    line: line > 0 ? line : undefined,
  }
  const change = useCallback(
    (changes: Partial<WalkAddress>) => {
      setParameters((known) => {
        const next = new URLSearchParams(known)
        if (!next.has('path')) next.set('path', start)
        for (const [name, value] of Object.entries(changes)) {
          const isDefault =
            value === null ||
            value === undefined ||
            (name === 'as' && value === 'reader') ||
            (name === 'gets' && value === 'page') ||
            (name === 'width' && value === 1080) ||
            (name === 'view' && value === 'page')
          if (isDefault) next.delete(name)
          else next.set(name, String(value))
        }
        return next
      })
    },
    [setParameters, start],
  )
  return { address, change }
}

export const useWalk = ({ path, as, gets }: WalkAddress) =>
  useQuery({
    queryKey: ['walk', path, as, gets],
    queryFn: () => call('GET /api/walk', { query: { path, as, gets } }),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: 0,
  })

interface HeldState {
  before: { record: WalkRecord; why: string } | null
  lastSave: Saved | null
  hold(record: WalkRecord, why: string): void
  saved(record: WalkRecord | undefined, save: Saved): void
  forget(): void
}

/** The walk kept for comparison, and the save that can be undone. */
export const useHeld = create<HeldState>((set) => ({
  before: null,
  lastSave: null,
  hold: (record, why) => set({ before: { record, why }, lastSave: null }),
  saved: (record, save) =>
    set({ before: record ? { record, why: `before saving ${save.path}` } : null, lastSave: save }),
  forget: () => set({ before: null, lastSave: null }),
}))
