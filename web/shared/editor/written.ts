/** What is typed into documents and not saved: kept in the browser, so that neither another view nor a reload loses it. */
import { create } from 'zustand'

export interface Written {
  text: string
  /** The text that was stored when it was begun: another one stored meanwhile is a conflict. */
  base: string
}

interface WrittenState {
  /** By the document's path. */
  of: Readonly<Record<string, Written>>
  /** @param stored the text that is stored now; what was begun before that keeps its own beginning */
  write(path: string, text: string, stored: string): void
  forget(path: string): void
}

/** Each document under a key of its own: another tab of the browser keeps others. */
const PREFIX = 'esquina document '

export const useWritten = create<WrittenState>((set, get) => ({
  of: keptBefore(),
  write: (path, text, stored) => {
    const base = get().of[path]?.base ?? stored
    if (text === base) return get().forget(path)
    const written = { text, base }
    set(({ of }) => ({ of: { ...of, [path]: written } }))
    keep(path, written)
  },
  forget: (path) => {
    set(({ of }) => ({ of: Object.fromEntries(Object.entries(of).filter(([one]) => one !== path)) }))
    keep(path, null)
  },
}))

function keep(path: string, written: Written | null): void {
  try {
    if (written === null) localStorage.removeItem(PREFIX + path)
    else localStorage.setItem(PREFIX + path, JSON.stringify(written))
  } catch {
    // A browser without room keeps nothing; the warning before leaving is what is left.
  }
}

function keptBefore(): Record<string, Written> {
  const of: Record<string, Written> = {}
  for (const key of Object.keys(localStorage)) {
    const written = key.startsWith(PREFIX) ? readKept(localStorage.getItem(key) ?? '') : null
    if (written) of[key.slice(PREFIX.length)] = written
  }
  return of
}

function readKept(json: string): Written | null {
  try {
    const { text, base } = JSON.parse(json) as Partial<Written>
    return typeof text === 'string' && typeof base === 'string' ? { text, base } : null
  } catch {
    return null
  }
}
