/** How routes nest: a route is below the nearest earlier route whose path is a prefix of its own. */

export interface Nested {
  depth: number
  /** For each level down to its own: whether another route follows on it, so that its line continues. */
  continues: boolean[]
}

/** Returns how routes nest. @param paths in order; only neighbours nest, so that the order is kept */
export function nesting(paths: readonly string[]): Nested[] {
  const parents: (number | undefined)[] = []
  for (const [index, path] of paths.entries()) {
    let parent: number | undefined
    for (let above = index - 1; above >= 0; above--) {
      const candidate = paths[above] ?? ''
      if (candidate !== '/' && path.startsWith(`${candidate}/`)) {
        parent = above
        break
      }
      // A route in between that does not nest ends the group.
      if (parents[above] === undefined) break
    }
    parents.push(parent)
  }
  const hasNext = (index: number) =>
    parents.some((parent, later) => later > index && parent !== undefined && parent === parents[index])
  const lines = (index: number): boolean[] => {
    const parent = parents[index]
    return parent === undefined ? [] : [...lines(parent), hasNext(index)]
  }
  return paths.map((_, index) => {
    const continues = lines(index)
    return { depth: continues.length, continues }
  })
}
