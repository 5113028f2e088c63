/**
 * What a value depends on. Rows and lists carry their dependence, so that it is known what a copy was rendered from.
 *
 * Tags: `post:31` is a row, `post:31/comments` the comments counted for a row, and `source:posts` the membership and
 * order of any listing of posts.
 */
export interface Dependence {
  tags: ReadonlySet<string>
  /** Whether it can change as time passes, because a scheduled post becomes due. */
  timed: boolean
}

/** The property of rows and lists that holds their dependence. It is a symbol, which templates cannot name. */
const DEPENDENCE: unique symbol = Symbol('dependence')

export const NOTHING: Dependence = { tags: new Set(), timed: false }

/** Attaches a dependence to a row or a list. Templates cannot see it. */
export function dependent<T extends object>(value: T, dependence: Dependence): T {
  ;(value as { [DEPENDENCE]?: Dependence })[DEPENDENCE] = dependence
  return value
}

export function joinDependences(parts: Iterable<Dependence>): Dependence {
  const tags = new Set<string>()
  let timed = false
  for (const part of parts) {
    for (const tag of part.tags) tags.add(tag)
    timed ||= part.timed
  }
  return { tags, timed }
}

/** Returns the dependence of a value, or undefined if neither the value nor its items carry one. */
export function dependenceOf(value: unknown): Dependence | undefined {
  if (typeof value !== 'object' || value === null) return undefined
  if (DEPENDENCE in value) return value[DEPENDENCE] as Dependence
  if (!Array.isArray(value) || value.length === 0) return undefined
  const parts = value.map(dependenceOf)
  return parts.every((part) => part !== undefined) ? joinDependences(parts) : undefined
}
