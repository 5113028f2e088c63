/** The part of the address behind the question mark, as state: what is open, how it is shown. */
import { useCallback } from 'react'
import { useSearchParams } from 'react-router'

/** Null takes a part away. */
export type Changes = Readonly<Record<string, string | null>>

export function useAddressState(): [URLSearchParams, (changes: Changes) => void] {
  const [parameters, setParameters] = useSearchParams()
  const change = useCallback(
    (changes: Changes) =>
      setParameters((known) => {
        const next = new URLSearchParams(known)
        for (const [name, value] of Object.entries(changes))
          if (value === null) next.delete(name)
          else next.set(name, value)
        return next
      }),
    [setParameters],
  )
  return [parameters, change]
}
