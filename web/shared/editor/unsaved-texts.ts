/** Unsaved texts of documents. The browser stores them, so that neither another view nor a reload loses them. */
import { create } from 'zustand'

export interface UnsavedText {
  text: string
  /** The stored text that it is based on. If another text is stored since, that is a conflict. */
  base: string
}

interface UnsavedTextsState {
  /** By the document's path. */
  of: Readonly<Record<string, UnsavedText>>
  /** @param stored the text that is stored now; an existing unsaved text keeps its own basis */
  write(path: string, text: string, stored: string): void
  forget(path: string): void
}

/** Each document has its own key, so that tabs of the browser do not overwrite each other's texts. */
const PREFIX = 'esquina document '

export const useUnsavedTexts = create<UnsavedTextsState>((set, get) => ({
  of: readStored(),
  write: (path, text, stored) => {
    const base = get().of[path]?.base ?? stored
    if (text === base) return get().forget(path)
    const unsaved = { text, base }
    set(({ of }) => ({ of: { ...of, [path]: unsaved } }))
    store(path, unsaved)
  },
  forget: (path) => {
    set(({ of }) => ({ of: Object.fromEntries(Object.entries(of).filter(([one]) => one !== path)) }))
    store(path, null)
  },
}))

function store(path: string, unsaved: UnsavedText | null): void {
  try {
    if (unsaved === null) localStorage.removeItem(PREFIX + path)
    else localStorage.setItem(PREFIX + path, JSON.stringify(unsaved))
  } catch {
    // If the browser's storage is full, the warning before leaving is all that protects the text.
  }
}

function readStored(): Record<string, UnsavedText> {
  const of: Record<string, UnsavedText> = {}
  for (const key of Object.keys(localStorage)) {
    const unsaved = key.startsWith(PREFIX) ? parse(localStorage.getItem(key) ?? '') : null
    if (unsaved) of[key.slice(PREFIX.length)] = unsaved
  }
  return of
}

function parse(json: string): UnsavedText | null {
  try {
    const { text, base } = JSON.parse(json) as Partial<UnsavedText>
    return typeof text === 'string' && typeof base === 'string' ? { text, base } : null
  } catch {
    return null
  }
}
