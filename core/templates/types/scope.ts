/** The types of names at a place in a template. */
import { either, NOTHING, type Type } from './type.ts'

export class Scope {
  readonly names: Map<string, Type>
  /** Types that conditions around the place have narrowed, by path: `post.category`. */
  readonly narrowed: Map<string, Type>

  constructor(names: ReadonlyMap<string, Type>, narrowed: ReadonlyMap<string, Type> = new Map()) {
    this.names = new Map(names)
    this.narrowed = new Map(narrowed)
  }

  copy(): Scope {
    return new Scope(this.names, this.narrowed)
  }

  /** Assigns a name. Conditions say nothing about the new value. */
  set(name: string, type: Type): void {
    this.names.set(name, type)
    for (const path of this.narrowed.keys())
      if (path === name || path.startsWith(`${name}.`)) this.narrowed.delete(path)
  }

  /** Restores a name after the body in which it was bound. */
  restore(name: string, type: Type | undefined): void {
    if (type) this.set(name, type)
    else this.names.delete(name)
  }

  /** Takes over the assignments of bodies of which exactly one is rendered. @returns whether a type has changed */
  join(bodies: readonly Scope[]): boolean {
    let isChanged = false
    const names = new Set(bodies.flatMap((one) => [...one.names.keys()]))
    for (const name of names) {
      const types = bodies.map((one) => one.names.get(name) ?? NOTHING)
      const joined = types.reduce((all, one) => either(all, one))
      if (joined === this.names.get(name)) continue
      this.set(name, joined)
      isChanged = true
    }
    return isChanged
  }
}

/** The position of an expression. */
export interface Position {
  template: string
  scope: Scope
}
