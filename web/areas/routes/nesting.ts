/** How routes nest: a route stands below the nearest one above it whose path begins its own. */

export interface Nested {
  depth: number
  /** For each level down to its own: whether another route follows on it, so that its line goes on. */
  goesOn: boolean[]
}

/** @param paths in order; only neighbours nest, so that the order stays what it is */
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
      // A stranger in between ends the group.
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
    const goesOn = lines(index)
    return { depth: goesOn.length, goesOn }
  })
}
