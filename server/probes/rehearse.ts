/** Shows what the blog would be like after a change: the change is made in a transaction, and rolled back. */
import type { Outcome } from '../../core/shapes/outcome.ts'
import { Writing } from '../author/writing.ts'
import type { ClockPort, SitePort, StorePort } from '../publish/ports.ts'
import type { AnswerPorts } from '../reader/answer.ts'
import type { UncachedPort } from '../reader/ports.ts'

export type RehearsalPorts = StorePort & SitePort & ClockPort & UncachedPort

/**
 * Makes a change and lets `look` use the blog as it is then, on the same path as readers' requests. Nothing is kept.
 * @param change its failure is the result
 */
export const rehearse = <T, R>(
  blog: RehearsalPorts,
  change: (writing: Writing) => Promise<Outcome<T>>,
  look: (changed: AnswerPorts, value: T) => Promise<R>,
): Promise<Outcome<R>> =>
  blog.store.rehearse(
    (unit) => change(new Writing(unit, blog.site.definition, blog.clock())),
    (pool, value) => look(blog.withoutFragments({ pool }), value),
  )
