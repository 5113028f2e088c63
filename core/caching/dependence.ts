/**
 * What a value depends on. Rows and lists carry it with them, so that a kept copy knows what it was made from.
 *
 * Tags: `post:31` a row · `post:31/comments` the comments counted for a row · `source:posts` the membership and
 * order of any listing of posts.
 */
export interface Dependence {
  tags: ReadonlySet<string>
  /** True when time alone may change it: a scheduled post comes due. */
  timed: boolean
}

/** The property under which rows and lists carry their dependence; templates cannot name a symbol. */
const DEPENDENCE: unique symbol = Symbol('dependence')

export const NOTHING: Dependence = { tags: new Set(), timed: false }

/** Attaches a dependence to a row or a list, without showing it to templates. */
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

/** The dependence a value carries; undefined when it carries none and is not made of values that do. */
export function dependenceOf(value: unknown): Dependence | undefined {
  if (typeof value !== 'object' || value === null) return undefined
  if (DEPENDENCE in value) return value[DEPENDENCE] as Dependence
  if (!Array.isArray(value) || value.length === 0) return undefined
  const parts = value.map(dependenceOf)
  return parts.every((part) => part !== undefined) ? joinDependences(parts) : undefined
}
