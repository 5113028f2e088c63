/** The identity of what is open for writing, as a React key. */
import { startTransition, useState } from 'react'

/**
 * Returns a key that differs for whatever is opened, so that no state of another item remains, and stays when what is
 * open gets another name, so that its editor keeps the cursor.
 * @param name of what is open, as in the address. What is new has a name from `newName`.
 */
export function useOpenKey(name: string | null): { key: string; renamed(to: string): void } {
  const [alias, setAlias] = useState<{ to: string; key: string } | null>(null)
  const key = alias !== null && alias.to === name ? alias.key : String(name)
  return {
    key,
    // The router changes the address in a transition, too, so both become visible together.
    renamed: (to) => startTransition(() => setAlias({ to, key })),
  }
}
