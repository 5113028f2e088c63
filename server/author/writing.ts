/** The context of a write: its unit of work, the definition in force, the time, and the names that content refers to. */
import type { EntityManager } from 'typeorm'
import type { Definition } from '../../core/blog/definition.ts'
import type { Outcome } from '../../core/shapes/outcome.ts'
import type { ClockPort, SitePort, StorePort } from '../publish/ports.ts'
import type { OnViolation, Unit, Written } from '../store/store.ts'
import { loadNames, type ContentNames } from './references.ts'

export type WritingPorts = StorePort & SitePort & ClockPort

export class Writing {
  readonly unit: Unit
  readonly definition: Definition
  readonly now: Date
  /** Shared by all parts of a write, so that what one part creates is known to the others. */
  readonly #known: { names?: Promise<ContentNames> | undefined }

  constructor(
    unit: Unit,
    definition: Definition,
    now: Date,
    known: { names?: Promise<ContentNames> | undefined } = {},
  ) {
    this.unit = unit
    this.definition = definition
    this.now = now
    this.#known = known
  }

  get manager(): EntityManager {
    return this.unit.manager
  }

  /** The categories, authors, tags and images that content may refer to, loaded once. */
  names(): Promise<ContentNames> {
    return (this.#known.names ??= loadNames(this.manager, this.definition.htmlRules))
  }

  /** Call after a category, author, tag or image was created in the same unit. */
  forgetNames(): void {
    this.#known.names = undefined
  }

  /** Runs a part of the write that can fail without the rest. */
  async attempt<T>(
    work: (part: Writing) => Promise<Outcome<T>>,
    onViolation?: OnViolation,
  ): Promise<Outcome<T>> {
    const outcome = await this.unit.attempt(
      (part) => work(new Writing(part, this.definition, this.now, this.#known)),
      onViolation,
    )
    // Names that the part has loaded may include rows that were rolled back.
    if (!outcome.ok) this.forgetNames()
    return outcome
  }
}

/** Runs a use case as one write. */
export const write = <T>(
  { store, site, clock }: WritingPorts,
  work: (writing: Writing) => Promise<Outcome<T>>,
): Promise<Written<T>> => store.write((unit) => work(new Writing(unit, site.definition, clock())))
