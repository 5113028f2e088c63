/** Tells elements of the same name apart. */

/** Returns the attribute that identifies an element best, as written; an empty text without one. */
export function markOf(attributes: Readonly<Record<string, string>>): string {
  const own = ['class', 'id', 'aria-label'].find((one) => attributes[one] !== undefined)
  return own === undefined ? '' : `${own}="${attributes[own] ?? ''}"`
}
