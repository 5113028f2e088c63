/** The context of a write: its unit of work, the definition in force, the time, and the names that content refers to. */
import type { EntityManager } from 'typeorm'
import type { Definition } from '../../core/blog/definition.ts'
import type { Change } from '../../core/caching/purge.ts'
import type { Outcome } from '../../core/shapes/outcome.ts'
import type { ClockPort, SitePort, StorePort } from '../publish/ports.ts'
import type { OnViolation, Unit, Written } from '../store/store.ts'
import { loadNames, type ContentNames } from './references.ts'

export type WritingPorts = StorePort & SitePort & ClockPort

export class Writing {
  readonly unit: Unit
  readonly definition: Definition
  readonly now: Date
  #names: Promise<ContentNames> | undefined

  constructor(unit: Unit, definition: Definition, now: Date, names?: Promise<ContentNames>) {
    this.unit = unit
    this.definition = definition
    this.now = now
    this.#names = names
  }

  get manager(): EntityManager {
    return this.unit.manager
  }

  /** The categories, authors, tags and images that content may refer to, loaded once. */
  names(): Promise<ContentNames> {
    return (this.#names ??= loadNames(this.manager, this.definition.htmlRules))
  }

  /** Call after a category, author, tag or image was created in the same unit. */
  forgetNames(): void {
    this.#names = undefined
  }

  changed(...changes: readonly Change[]): void {
    this.unit.changed(...changes)
  }

  /** Runs a part of the write that can fail without the rest. */
  attempt<T>(work: (part: Writing) => Promise<Outcome<T>>, onViolation?: OnViolation): Promise<Outcome<T>> {
    return this.unit.attempt(
      (part) => work(new Writing(part, this.definition, this.now, this.#names)),
      onViolation,
    )
  }
}

/** Runs a use case as one write. */
export const write = <T>(
  { store, site, clock }: WritingPorts,
  work: (writing: Writing) => Promise<Outcome<T>>,
): Promise<Written<T>> => store.write((unit) => work(new Writing(unit, site.definition, clock())))
