/** Where a row of a tree goes when it is dropped, or moved by a key. */

/** A row of a tree. Each row comes before those below it in the tree. */
export interface Branch {
  id: string
  parent: string | null
  depth: number
}

export interface Place {
  parent: string | null
  /** The sibling that it comes before; null for the last place. */
  before: string | null
}

/** Width of one level in pixels. A row that is dragged sideways by it moves one level in or out. */
export const LEVEL = 22

/** Returns a row with all rows below it. */
export function subtree(rows: readonly Branch[], id: string): readonly Branch[] {
  const from = rows.findIndex((one) => one.id === id)
  const top = rows[from]
  if (!top) return []
  const length = rows.slice(from + 1).findIndex((one) => one.depth <= top.depth)
  return length === -1 ? rows.slice(from) : rows.slice(from, from + 1 + length)
}

/**
 * Returns the place of a row that is dropped on another one.
 * @param sideways how many pixels it was dragged to the right (in) or to the left (out)
 * @returns undefined if it stays where it is
 */
export function dropped(
  rows: readonly Branch[],
  id: string,
  over: string,
  sideways: number,
): Place | undefined {
  const own = rows.find((one) => one.id === id)
  const from = rows.findIndex((one) => one.id === id)
  const to = rows.findIndex((one) => one.id === over)
  if (!own || to === -1) return undefined
  const moved = new Set(subtree(rows, id).map((one) => one.id))
  if (moved.has(over) && over !== id) return undefined
  const others = rows.filter((one) => !moved.has(one.id))
  // A row that is dragged down comes after the one it is dropped on, a row that is dragged up comes before it.
  const target = others.findIndex((one) => one.id === over)
  const at =
    over === id ? others.filter((one) => rows.indexOf(one) < from).length : to > from ? target + 1 : target
  const above = others[at - 1]
  const below = others[at]
  const deepest = above ? above.depth + 1 : 0
  const shallowest = below ? below.depth : 0
  const depth = Math.max(shallowest, Math.min(deepest, own.depth + Math.round(sideways / LEVEL)))
  return different(rows, own, placeAt(others, at, depth))
}

/** Returns the place of a row at an index with a depth. */
function placeAt(others: readonly Branch[], at: number, depth: number): Place {
  let parent: string | null = null
  for (let index = at - 1; index >= 0 && depth > 0; index--) {
    const one = others[index]
    if (one && one.depth === depth - 1) {
      parent = one.id
      break
    }
  }
  const next = others.slice(at).find((one) => one.depth <= depth)
  return { parent, before: next?.depth === depth ? next.id : null }
}

export type Step = 'up' | 'down' | 'in' | 'out'

/** Returns the place of a row that is moved by a key; undefined if it cannot move there. */
export function stepped(rows: readonly Branch[], id: string, step: Step): Place | undefined {
  const own = rows.find((one) => one.id === id)
  if (!own) return undefined
  const beside = rows.filter((one) => one.parent === own.parent)
  const at = beside.findIndex((one) => one.id === id)
  const previous = beside[at - 1]
  switch (step) {
    case 'up':
      return previous && { parent: own.parent, before: previous.id }
    case 'down':
      return at + 1 < beside.length ? { parent: own.parent, before: beside[at + 2]?.id ?? null } : undefined
    case 'in':
      return previous && { parent: previous.id, before: null }
    case 'out': {
      const parent = rows.find((one) => one.id === own.parent)
      if (!parent) return undefined
      const level = rows.filter((one) => one.parent === parent.parent)
      return { parent: parent.parent, before: level[level.indexOf(parent) + 1]?.id ?? null }
    }
  }
}

function different(rows: readonly Branch[], own: Branch, place: Place): Place | undefined {
  const beside = rows.filter((one) => one.parent === own.parent)
  const next = beside[beside.indexOf(own) + 1]?.id ?? null
  return place.parent === own.parent && place.before === next ? undefined : place
}
