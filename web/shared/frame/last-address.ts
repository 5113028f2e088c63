/** Where each area was left, so that returning to it shows the same again. */
import { create } from 'zustand'
import { createJSONStorage, persist } from 'zustand/middleware'

interface LastAddresses {
  /** By area, e.g. `/content`, and by path, e.g. `/content/posts`. */
  of: Readonly<Record<string, string>>
  note(path: string, search: string): void
}

/** Parts of an address that only say where to scroll to. */
const PASSING = ['line']

export const useLastAddresses = create<LastAddresses>()(
  persist(
    (set) => ({
      of: {},
      note: (path, search) => {
        const parameters = new URLSearchParams(search)
        for (const name of PASSING) parameters.delete(name)
        const address = parameters.size > 0 ? `${path}?${parameters.toString()}` : path
        const [, area = ''] = path.split('/')
        set(({ of }) => ({ of: { ...of, [path]: address, [`/${area}`]: address } }))
      },
    }),
    { name: 'esquina addresses', storage: createJSONStorage(() => sessionStorage) },
  ),
)
