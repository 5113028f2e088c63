/** What the workbench asks about the copies of a process, and how one process answers. */
import { describeDependence } from '../../core/caching/session.ts'
import { lengthOf } from '../../core/caching/store.ts'
import type { ClockPort } from '../publish/ports.ts'
import type { FragmentPort } from './page-data.ts'

/** A copy, without its text. */
export interface CopySummary {
  kind: 'page' | 'fragment'
  key: string
  name: string
  bytes: number
  ageMilliseconds: number
  remainingMilliseconds: number
  dependsOn: string[]
}

/** Questions about the copies of one process. Words and answers are plain values: they also travel between processes. */
export interface CopyQuestions {
  copies(): { copies: CopySummary[]; bytes: number }
  clear(): number
}

/** The same questions about the copies of all processes that serve readers: one answer of each. */
export type CopiesPort = {
  [Name in keyof CopyQuestions]: (
    ...words: Parameters<CopyQuestions[Name]>
  ) => Promise<ReturnType<CopyQuestions[Name]>[]>
}

export const ownCopies = (blog: FragmentPort & ClockPort): CopyQuestions => ({
  copies: () => {
    const now = blog.clock().getTime()
    return {
      bytes: blog.fragments.bytes,
      copies: [...blog.fragments.entries()].map(([key, copy]) => ({
        kind: copy.answer ? ('page' as const) : ('fragment' as const),
        key,
        // A page is named by its route.
        name: copy.answer ? copy.name.replace(/^page /, '') : copy.name,
        bytes: lengthOf(copy),
        ageMilliseconds: now - copy.madeAt,
        remainingMilliseconds: copy.expiresAt - now,
        dependsOn: describeDependence(copy.dependence),
      })),
    }
  },
  clear: () => blog.fragments.clear('an author cleared all copies').length,
})

/** The copies of a single process that serves readers. */
export function copiesOfOne(blog: FragmentPort & ClockPort): CopiesPort {
  const own = ownCopies(blog)
  return {
    copies: () => Promise.resolve([own.copies()]),
    clear: () => Promise.resolve([own.clear()]),
  }
}
