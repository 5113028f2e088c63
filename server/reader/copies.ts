/** What the workbench asks about the copies of a process, and how one process answers. */
import { NOTHING } from '../../core/caching/dependence.ts'
import { describeDependence } from '../../core/caching/session.ts'
import { lengthOf, ProcessFragmentStore, type Copy } from '../../core/caching/store.ts'
import type { ClockPort } from '../publish/ports.ts'
import { answer } from './answer.ts'
import type { FragmentPort } from './page-request.ts'
import type { SharedCounts, SharedLevel } from './pages/shared-level.ts'
import { countsOf, type CopyCount } from './pages/copy-counts.ts'
import type { ScratchPort } from './ports.ts'
import { internalRequest } from './request.ts'

/** A copy, without its text. */
export interface CopySummary {
  kind: 'page' | 'fragment'
  key: string
  name: string
  bytes: number
  ageMilliseconds: number
  remainingMilliseconds: number
  /** Of a page. */
  address: string | null
  uses: number
  dependsOn: string[]
  /** What it shows, and a change does not refresh. */
  refreshedByAge: string[]
}

/** How a process has used shared copies. */
export interface SharedSummary extends SharedCounts {
  /** Whether the store is available. */
  isAvailable: boolean
}

/** How stored copies compare with what would be rendered now. */
export interface Comparison {
  compared: number
  same: number
  /** Different, and showing something that only age refreshes. */
  byAge: number
  different: {
    kind: 'page' | 'fragment'
    name: string
    address: string | null
    before: string
    after: string
  }[]
}

type MaybeLater<T> = T | Promise<T>

/** Questions about the copies of one process. Words and answers are plain values: they also travel between processes. */
export interface CopyQuestions {
  copies(): MaybeLater<{ copies: CopySummary[]; bytes: number; shared: SharedSummary | null }>
  /** By rule, in the last hour. */
  counts(): MaybeLater<Record<string, CopyCount>>
  /** Returns the text of a copy; null if there is none. */
  text(key: string): MaybeLater<string | null>
  drop(key: string): MaybeLater<boolean>
  clear(): MaybeLater<number>
  /** Compares the copies of addresses, and of the fragments in them, with what would be rendered now. */
  compare(addresses: readonly string[]): MaybeLater<Comparison>
}

/** The same questions about the copies of all processes that serve readers: one answer of each. */
export type CopiesPort = {
  [Name in keyof CopyQuestions]: (
    ...words: Parameters<CopyQuestions[Name]>
  ) => Promise<Awaited<ReturnType<CopyQuestions[Name]>>[]>
}

type Asked = Omit<FragmentPort, 'shared'> & ClockPort & ScratchPort & { shared?: SharedLevel | undefined }

/** Returns the text of a copy, with a mark where something is filled in for each reader. */
export const textOfCopy = ({ content }: Copy): string => content.join('…')

const namesOf = (copy: Copy) => ({
  kind: copy.answer ? ('page' as const) : ('fragment' as const),
  // A page is named by its route.
  name: copy.answer ? copy.name.replace(/^page /, '').replace(/^json (.*)$/, '$1 (JSON)') : copy.name,
  address: copy.answer?.target ?? null,
})

export const ownCopies = (blog: Asked): CopyQuestions => ({
  copies: () => {
    const now = blog.clock().getTime()
    return {
      bytes: blog.fragments.bytes,
      shared: blog.shared ? { ...blog.shared.counts, isAvailable: blog.shared.isAvailable } : null,
      copies: [...blog.fragments.entries()].map(([key, copy]) => ({
        ...namesOf(copy),
        key,
        bytes: lengthOf(copy) + (copy.formBytes ?? 0),
        ageMilliseconds: now - copy.madeAt,
        remainingMilliseconds: copy.expiresAt - now,
        uses: copy.answer?.uses ?? 0,
        dependsOn: describeDependence(copy.dependence),
        refreshedByAge: describeDependence(copy.aged),
      })),
    }
  },
  counts: () => countsOf(blog.fragments).lastHour(blog.clock().getTime()),
  text: (key) => {
    const found = blog.fragments.peek(key)
    return found ? textOfCopy(found) : null
  },
  // Shared copies first, so that no process takes them again.
  drop: async (key) => {
    await blog.shared?.drop(key)
    return blog.fragments.drop(key)
  },
  clear: async () => {
    await blog.shared?.clear()
    return blog.fragments.clear('an author cleared all copies').length
  },
  compare: (addresses) => compare(blog, addresses),
})

/** How much of a difference is shown, in characters, and how much around it. */
const SHOWN = 200
const AROUND = 30

async function compare(blog: Asked, addresses: readonly string[]): Promise<Comparison> {
  const result: Comparison = { compared: 0, same: 0, byAge: 0, different: [] }
  const stored = new Map(blog.fragments.entries())
  const { generation } = blog.fragments
  const store = new ProcessFragmentStore(Number.MAX_SAFE_INTEGER)
  const ports = blog.withCopies(store)
  for (const address of addresses) await answer(ports, internalRequest(address))
  for (const [key, now] of store.entries()) {
    const copy = stored.get(key)
    // A change in the meantime: the new rendering shows it, and the copy was dropped.
    if (!copy || blog.fragments.peek(key)?.madeAt !== copy.madeAt || blog.fragments.generation !== generation)
      continue
    result.compared++
    const [before, after] = [textOfCopy(copy), textOfCopy(now)]
    if (before === after) result.same++
    else if (copy.aged !== NOTHING) result.byAge++
    else result.different.push({ ...namesOf(copy), ...whereDifferent(before, after) })
  }
  return result
}

/** Returns the parts of two texts around their first difference. */
function whereDifferent(before: string, after: string): { before: string; after: string } {
  let at = 0
  while (before[at] === after[at]) at++
  const cut = (text: string) => text.slice(Math.max(0, at - AROUND), at + SHOWN)
  return { before: cut(before), after: cut(after) }
}

/** The copies of a single process that serves readers. */
export function copiesOfOne(blog: Asked): CopiesPort {
  const own = ownCopies(blog)
  return {
    copies: async () => [await own.copies()],
    counts: async () => [await own.counts()],
    text: async (key) => [await own.text(key)],
    drop: async (key) => [await own.drop(key)],
    clear: async () => [await own.clear()],
    compare: async (addresses) => [await own.compare(addresses)],
  }
}
