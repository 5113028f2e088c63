/** What the types of values show to be wrong in templates. */
import type { Place } from '../tree.ts'

export type FaultKind =
  /** A name that no value has. */
  | 'name-unknown'
  /** A field that the value does not have. */
  | 'field-unknown'
  /** A field that exists, but that the query does not fetch. */
  | 'field-not-fetched'
  /** A field of a list, as if it were one row. */
  | 'list-as-row'
  /** A loop over something that is not a list. */
  | 'row-as-list'
  /** A value that may be empty, where that breaks an address. */
  | 'may-be-empty'
  /** A date that is printed without a format. */
  | 'date-unformatted'
  /** An argument that the partial does not read. */
  | 'argument-unread'
  /** A block that no layout of the page has. */
  | 'block-unknown'

export interface TemplateFault {
  kind: FaultKind
  template: string
  place: Place
  /** What it is about, as written: `post.titel`. */
  subject: string
  /** What is the case, as a sentence. */
  message: string
  /** What to do, as a sentence; empty if nothing is certain. */
  hint: string
  /** The name that was probably meant. */
  meant: string | null
  /** The page in which it was found. */
  page: string
  /** The route of the page; null if it has none. */
  route: string | null
}

const keyOf = ({
  kind,
  template,
  place,
  subject,
}: Omit<TemplateFault, 'message' | 'hint' | 'meant' | 'page' | 'route'>) =>
  `${kind} ${template}:${place.line}:${place.column} ${subject}`

/** Faults that count only if they are found in all pages that render the place: a partial may get less in one of them. */
const EVERYWHERE: ReadonlySet<FaultKind> = new Set(['name-unknown', 'field-unknown'])

/** Collects faults from all pages. */
export class FaultCollector {
  readonly #found = new Map<string, TemplateFault>()
  readonly #right = new Set<string>()

  add(fault: TemplateFault): void {
    const key = keyOf(fault)
    if (!this.#found.has(key)) this.#found.set(key, fault)
  }

  /** Notes that a place is right in one page. */
  isRight(kind: FaultKind, template: string, place: Place, subject: string): void {
    this.#right.add(keyOf({ kind, template, place, subject }))
  }

  get faults(): TemplateFault[] {
    return [...this.#found]
      .filter(([key, { kind }]) => !(EVERYWHERE.has(kind) && this.#right.has(key)))
      .map(([, fault]) => fault)
      .sort((a, b) => a.template.localeCompare(b.template) || a.place.line - b.place.line)
  }
}
