/** What a walk says about the queries of a page: which ran, what they gave, and why one did not. */
import { shorten } from '../../../core/content/text.ts'
import type { PageReads } from '../../../core/templates/reads.ts'
import { queryPath, templatePath } from '../../../core/shapes/documents.ts'
import { pageCount } from '../../../core/paging/numbered.ts'
import { describeQuery, describeRanked } from '../../../core/queries/explaining/describe.ts'
import type { QueryMeaning, Take } from '../../../core/queries/meaning.ts'
import { liftsPublished, type Visibility } from '../../store/statements/compile-query.ts'
import type { QueryFailure, QueryResult, Row, StatementRun } from '../../store/statements/run-query.ts'
import { NAVIGATION, type SiteQuery } from '../../publish/site.ts'
import type { Walk } from './walk.ts'
import type { WalkPlace, WalkQuery } from '../../../contract/walk-record.ts'

export class QueryNotes {
  readonly #walk: Walk
  readonly #as: Visibility
  /** Said of what is run from now on. */
  late: string | null = null

  constructor(walk: Walk, as: Visibility) {
    this.#walk = walk
    this.#as = as
  }

  /** Adds which lines of the page's templates read what of the rows. */
  readBy(reads: PageReads): void {
    let known = readByData.get(reads)
    if (!known) readByData.set(reads, (known = inPlaces(reads)))
    for (const run of this.#walk.record.queries.runs) run.read = known.get(run.data) ?? []
  }

  ran(
    name: string,
    query: SiteQuery,
    result: QueryResult,
    milliseconds: number,
    parameters: Readonly<Record<string, unknown>>,
  ): void {
    const { meaning } = query
    const run: WalkQuery = {
      ...identity(name, query),
      outcome: result.rows.length === 0 ? 'empty' : 'rows',
      why: liftsPublished(meaning, this.#as)
        ? 'asked without “published”, because the author may see what is not'
        : (this.late ?? describeRanked(meaning, result.total)),
      statements: result.statements.map(plainStatement),
      rows: result.rows.length,
      total: result.total ?? null,
      isEstimated: result.isEstimated,
      shown: result.rows.map((row) =>
        meaning.countBy.length > 0 ? { label: countLabel(row), document: null } : labelOf(meaning.from, row),
      ),
      parameters: Object.fromEntries(
        meaning.parameters.map((one) => [one, plainValue(parameters[one] ?? null)]),
      ),
      milliseconds,
      read: [],
    }
    this.#walk.record.queries.runs.push(run)
    if (run.outcome === 'empty') this.#walk.emptyRuns.push({ run, query, parameters: { ...parameters } })
  }

  failed(name: string, query: SiteQuery, { statement, message }: QueryFailure): void {
    this.#walk.record.queries.runs.push({
      ...identity(name, query),
      ...NO_RESULT,
      outcome: 'failed',
      why: message,
      statements: [plainStatement(statement)],
      milliseconds: statement.milliseconds,
    })
  }

  /** Adds to the page that was asked for how many there are. */
  pages(take: Take & { kind: 'pages' }, { total, isEstimated }: QueryResult): void {
    const noted = this.#walk.record.parameters.find(
      (one) => one.name === take.parameter && one.from === 'query',
    )
    if (!noted || total === undefined || take.by === 'cursor') return
    const count = `${isEstimated ? 'about ' : ''}${pageCount(total, take.size)}`
    noted.note = noted.note === null ? `of ${count}` : `${noted.note}; there are ${count}`
  }

  /**
   * Adds the data that was not asked for, and puts all in the order of the route.
   * @param others name and query of what the page could have asked
   * @param read names that its templates read
   */
  finish(
    names: readonly string[],
    others: readonly { name: string; query: SiteQuery }[],
    read: ReadonlySet<string>,
    failed?: string,
  ): void {
    const { runs } = this.#walk.record.queries
    for (const { name, query } of others) {
      if (name === NAVIGATION && !read.has(name)) continue
      runs.push({
        ...identity(name, query),
        ...NO_RESULT,
        outcome: 'not-run',
        why: !read.has(name)
          ? 'not run: no template of this page reads it'
          : (failed ?? 'not run: only kept parts read it, and their copies were at hand'),
      })
    }
    runs.sort((a, b) => names.indexOf(a.data) - names.indexOf(b.data))
  }
}

/** Worked out once for each page of a definition. */
const readByData = new WeakMap<PageReads, ReadonlyMap<string, WalkQuery['read']>>()

/** What is read of each data: its fields, each with the places that read it. */
function inPlaces({ reads }: PageReads): ReadonlyMap<string, WalkQuery['read']> {
  const all = new Map<string, Map<string, WalkPlace[]>>()
  for (const { data, path, template, line } of reads) {
    const fields = all.get(data) ?? new Map<string, WalkPlace[]>()
    all.set(data, fields)
    const field = path.join('.')
    fields.set(field, [...(fields.get(field) ?? []), { document: templatePath(template), line }])
  }
  return new Map(
    [...all].map(([data, fields]) => [data, [...fields].map(([field, places]) => ({ field, places }))]),
  )
}

const sentences = new WeakMap<QueryMeaning, string>()
function sentenceOf(meaning: QueryMeaning): string {
  let known = sentences.get(meaning)
  if (known === undefined) sentences.set(meaning, (known = describeQuery(meaning)))
  return known
}

function identity(
  name: string,
  query: SiteQuery,
): Pick<WalkQuery, 'data' | 'query' | 'document' | 'sentence'> {
  return {
    data: name,
    query: query.name,
    document: name === NAVIGATION ? null : queryPath(query.name),
    sentence: sentenceOf(query.meaning),
  }
}

const NO_RESULT = {
  parameters: {},
  statements: [],
  rows: 0,
  total: null,
  isEstimated: false,
  shown: [],
  milliseconds: 0,
  read: [],
}

const plainStatement = (run: StatementRun): StatementRun => ({ ...run, values: run.values.map(plainValue) })

const plainValue = (value: unknown): unknown => (value instanceof Date ? value.toISOString() : value)

/** E.g. `2026, 11: 4`. */
function countLabel({ count, ...values }: Row): string {
  const said = Object.values(values).map((one) =>
    typeof one === 'object' && one !== null ? Object.values(one).join(' ') : String(one ?? 'none'),
  )
  return `${said.join(', ')}: ${String(count)}`
}

function labelOf(source: string, row: Row): { label: string; document: string | null } {
  const text = row['title'] ?? row['name'] ?? `row ${String(row['id'])}`
  const label =
    source === 'comments'
      ? `${String(row['name'])}: ${shorten(String(row['text']).replace(/\s+/g, ' '), 60)}`
      : String(text)
  return { label, document: source === 'posts' ? `content/posts/${String(row['slug'])}.md` : null }
}
