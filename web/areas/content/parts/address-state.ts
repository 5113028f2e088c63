/** State in the query string of the address: what is open, and how it is shown. */
import { useCallback } from 'react'
import { useSearchParams } from 'react-router'

/** null removes a parameter. */
export type Changes = Readonly<Record<string, string | null>>

/** @param replace replaces the entry in the browser's history, for a name that no longer exists */
export type ChangeAddress = (changes: Changes, replace?: boolean) => void

export function useAddressState(): [URLSearchParams, ChangeAddress] {
  const [parameters, setParameters] = useSearchParams()
  const change = useCallback(
    (changes: Changes, replace = false) =>
      setParameters(
        (known) => {
          const next = new URLSearchParams(known)
          for (const [name, value] of Object.entries(changes))
            if (value === null) next.delete(name)
            else next.set(name, value)
          return next
        },
        { replace },
      ),
    [setParameters],
  )
  return [parameters, change]
}
