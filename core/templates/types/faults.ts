/** Faults in templates that follow from the types of values. */
import type { Place } from '../tree.ts'
import type { AbsentField } from './type.ts'

export type FaultKind =
  /** A text in the value of an attribute without quotes. */
  | 'attribute-unquoted'
  /** A name that no value has. */
  | 'name-unknown'
  /** A name that no route has, with which the route of the request is compared. */
  | 'route-unknown'
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
  /** A field of a row that may be absent, in a text. */
  | 'row-absent'
  /** A date that is printed without a format. */
  | 'date-unformatted'
  /** A date format that prints no part of the date, or the wrong one. */
  | 'date-format-wrong'
  /** The text of a comment as it was typed, where its HTML belongs. */
  | 'comment-as-typed'
  /** The number of rows on a page, which looks like the number of all rows. */
  | 'page-counted'
  /** A row or a list of rows, which prints nothing. */
  | 'row-printed'
  /** A slug where readers expect the name. */
  | 'slug-shown'
  /** A whole text without its markup. */
  | 'markup-lost'
  /** The current time in each row of a list. */
  | 'now-in-loop'
  /** A text that is escaped twice. */
  | 'escaped-twice'
  /** A text that is cut to nothing. */
  | 'cut-to-nothing'
  /** A value, or a loop over a list, in a branch that is only rendered if it is empty. */
  | 'always-empty'
  /** A comparison of values that are never equal. */
  | 'compare-never'
  /** The plural for one, and the singular for several. */
  | 'plural-swapped'
  /** A datetime that is the same for every time. */
  | 'time-constant'
  /** A time whose text is another value than its datetime. */
  | 'time-differs'
  /** A number of words that is called minutes. */
  | 'words-as-minutes'
  /** A list as a condition, which is true without any rows, too. */
  | 'list-always-true'
  /** A value that is shown twice, one after the other. */
  | 'printed-twice'
  /** A text that says that there is nothing, outside of any condition. */
  | 'nothing-always'
  /** A condition or a loop, or its `{% else %}`, that prints and sets nothing. */
  | 'branch-idle'
  /** A loop that leaves out the first rows of a list. */
  | 'rows-skipped'
  /** A literal in an address, or the name of a value in quotes, without a filter. */
  | 'literal-printed'
  /** A value that a filter misreads. */
  | 'filter-misreads'
  /** A filter on a value that makes it fail. */
  | 'filter-fails'
  /** An element that is not closed, or an end tag that closes nothing. */
  | 'markup-unnested'
  /** A name or title in an address that is built from slugs. */
  | 'slug-expected'
  /** An argument that the partial does not read. */
  | 'argument-unread'
  /** An argument without any of the fields that the partial reads. */
  | 'argument-wrong'
  /** A value that the partial reads, that the template has, and that is not passed. */
  | 'argument-missing'
  /** A block that no layout of the page has. */
  | 'block-unknown'

export interface TemplateFault {
  kind: FaultKind
  template: string
  place: Place
  /** The name, path, argument or block, as written: `post.titel`. */
  subject: string
  /** The fault, as a sentence. */
  message: string
  /** How to correct it, as a sentence; empty if that is not certain. */
  hint: string
  /** The name that was probably meant. */
  meant: string | null
  /** Of a field that is not fetched: what to add to `with` of which query; null if that is not possible. */
  fetch: AbsentField['fetch']
  /** The page in which it was found. */
  page: string
  /** The route of the page; null if it has none. */
  route: string | null
}

/** A fault in an expression. */
export interface ExpressionFault {
  kind: FaultKind
  place: Place
  /** The path, filter or name, as written. */
  subject: string
  fault: FaultText
}

/** A fault in words. */
export interface FaultText {
  /** The fault, as a sentence. */
  message: string
  /** How to correct it, as a sentence. */
  hint?: string | undefined
  /** The names among which a misspelt one may be. */
  names?: readonly string[]
  fetch?: TemplateFault['fetch']
}

/** The part of a fault that says where it is. */
export type FaultPlace = Pick<TemplateFault, 'template' | 'place' | 'subject'>

const keyOf = (kind: FaultKind, { template, place, subject }: FaultPlace) =>
  `${kind} ${template}:${place.line}:${place.column} ${subject}`

/** Faults that are reported only if every page that renders the place has them: partials can have optional arguments. */
const EVERYWHERE: ReadonlySet<FaultKind> = new Set([
  'name-unknown',
  'field-unknown',
  'list-always-true',
  'nothing-always',
  'row-absent',
])

/** Lines between two numbers that belong together. */
const BESIDE = 2

/** Collects faults from all pages. */
export class FaultCollector {
  readonly #found = new Map<string, TemplateFault>()
  readonly #right = new Set<string>()
  /** The lines around those that print the number of all rows. */
  readonly #besideTotals = new Set<string>()

  add(fault: TemplateFault): void {
    const key = keyOf(fault.kind, fault)
    if (!this.#found.has(key)) this.#found.set(key, fault)
  }

  /** Whether a field at a place, or the row that it is a field of, is known not to be fetched. */
  isUnfetched({ template, place, subject }: FaultPlace): boolean {
    const steps = subject.split('.')
    return steps.some((_, index) =>
      this.#found.has(
        keyOf('field-not-fetched', { template, place, subject: steps.slice(0, index + 1).join('.') }),
      ),
    )
  }

  /** Records that a page renders a place without the fault. */
  isRight(kind: FaultKind, where: FaultPlace): void {
    this.#right.add(keyOf(kind, where))
  }

  /** Records that a template prints the number of all rows. */
  printsTotal(template: string, { line }: Place): void {
    for (let beside = line - BESIDE; beside <= line + BESIDE; beside++)
      this.#besideTotals.add(`${template}:${beside}`)
  }

  /**
   * Returns the faults in the order of templates and lines.
   * @param isComplete whether all pages were read as a whole; if not, another page may render a place without the fault
   */
  list(isComplete: boolean): TemplateFault[] {
    return (
      [...this.#found]
        .filter(([key, { kind }]) => !EVERYWHERE.has(kind) || (isComplete && !this.#right.has(key)))
        .map(([, fault]) => fault)
        // “6 of 42 posts” tells both.
        .filter(
          ({ kind, template, place }) =>
            kind !== 'page-counted' || !this.#besideTotals.has(`${template}:${place.line}`),
        )
        .sort((a, b) => a.template.localeCompare(b.template) || a.place.line - b.place.line)
    )
  }
}
