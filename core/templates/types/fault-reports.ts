/** Reports the faults of one page. */
import { closestName } from '../../shapes/suggest-name.ts'
import type { Place } from '../tree.ts'
import type { FaultCollector, FaultKind, FaultPlace, FaultText, ExpressionFault } from './faults.ts'
import type { TypedPage } from './typed-page.ts'

export class FaultReports {
  readonly #page: TypedPage
  readonly #faults: FaultCollector

  constructor(page: TypedPage, faults: FaultCollector) {
    this.#page = page
    this.#faults = faults
  }

  report(
    kind: FaultKind,
    where: FaultPlace,
    { message, hint = '', names = [], fetch = null }: FaultText,
  ): void {
    const meant = closestName(where.subject.split('.').at(-1) ?? '', names) ?? null
    const { page, route } = this.#page
    this.#faults.add({
      ...{ kind, ...where, message, meant, page, route, fetch },
      hint: hint || (meant === null ? '' : `Did you mean “${meant}”?`),
    })
  }

  /** Reports the faults of an expression. */
  reportAll(template: string, faults: readonly ExpressionFault[]): void {
    for (const { kind, place, subject, fault } of faults)
      this.report(kind, { template, place, subject }, fault)
  }

  /** Reports what is a fault only on pages with an address: the page for unknown addresses may say it. */
  reportOnRoutes(kind: FaultKind, where: FaultPlace, fault: FaultText): void {
    if (this.#page.route === null) this.noteRight(kind, where)
    else this.report(kind, where, fault)
  }

  /** Records that this page renders a place without the fault. */
  noteRight(kind: FaultKind, where: FaultPlace): void {
    this.#faults.isRight(kind, where)
  }

  /** Whether a field, or the row that it is a field of, is known not to be fetched. */
  isUnfetched(where: FaultPlace): boolean {
    return this.#faults.isUnfetched(where)
  }

  /** Records that a template prints the number of all rows. */
  notePrintedTotal(template: string, place: Place): void {
    this.#faults.printsTotal(template, place)
  }
}
