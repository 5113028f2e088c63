/** The names that the templates of one frame use, as numbers: a page with its layouts, or a partial. */
export class Names {
  readonly #slots = new Map<string, number>()

  /** Returns the number of a name, which is the same from now on. */
  slot(name: string): number {
    const known = this.#slots.get(name)
    if (known !== undefined) return known
    const slot = this.#slots.size
    this.#slots.set(name, slot)
    return slot
  }

  find(name: string): number | undefined {
    return this.#slots.get(name)
  }

  /** Returns all names. */
  list(): Iterable<string> {
    return this.#slots.keys()
  }

  get size(): number {
    return this.#slots.size
  }
}
