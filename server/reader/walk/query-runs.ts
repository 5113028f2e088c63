/** Describes the queries of a walked page: which ran, what they returned, and why others did not run. */
import { shorten } from '../../../core/content/text.ts'
import { describeQuery, describeRanked } from '../../../core/queries/explaining/describe.ts'
import type { QueryMeaning } from '../../../core/queries/meaning.ts'
import { liftsPublished } from '../../../core/queries/plan.ts'
import { queryPath, templatePath } from '../../../core/shapes/documents.ts'
import type { PageReads } from '../../../core/templates/reads.ts'
import type { WalkPlace, WalkQuery } from '../../../contract/walk-record.ts'
import { NAVIGATION, type SiteQuery } from '../../publish/site.ts'
import type { QueryFailure, Row } from '../../store/statements/run-query.ts'
import type { StatementRun } from '../../store/statement-reports.ts'
import type { PageSummary, QueryRun } from '../tracer.ts'

/** @param isLate whether it ran only after rendering had started */
export function queryRun(
  { name, query, as, parameters, result, milliseconds }: QueryRun,
  isLate: boolean,
): WalkQuery {
  const { meaning } = query
  const why = liftsPublished(meaning, as)
    ? 'Ran without “published”, because the author may see unpublished posts.'
    : isLate
      ? 'Ran late, because a fragment that reads it had to be rendered.'
      : describeRanked(meaning, result.total)
  return {
    ...identityOf(name, query),
    outcome: result.rows.length === 0 ? 'empty' : 'rows',
    why,
    isUnpublished: false,
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
}

export const failedQuery = (
  name: string,
  query: SiteQuery,
  { statement, message }: QueryFailure,
): WalkQuery => ({
  ...identityOf(name, query),
  ...NO_RESULT,
  outcome: 'failed',
  why: message,
  statements: [plainStatement(statement)],
  milliseconds: statement.milliseconds,
})

/** Adds the queries that did not run, sorts all in the order of the route, and adds the fields that templates read. */
export function finishedQueries(
  runs: WalkQuery[],
  { names, notRun, read, reads, failed }: PageSummary,
): void {
  for (const { name, query } of notRun) {
    if (name === NAVIGATION && !read.has(name)) continue
    runs.push({
      ...identityOf(name, query),
      ...NO_RESULT,
      outcome: 'not-run',
      why: !read.has(name)
        ? 'Not run, because no template of this page reads it.'
        : failed
          ? 'Not run, because the request failed first.'
          : 'Not run, because only fragments read it and their copies were stored.',
    })
  }
  runs.sort((a, b) => names.indexOf(a.data) - names.indexOf(b.data))
  if (reads === null) return
  let known = readsByData.get(reads)
  if (!known) readsByData.set(reads, (known = byData(reads)))
  for (const run of runs) run.read = known.get(run.data) ?? []
}

/** The reads of each page, by data. They are computed once per page of a definition. */
const readsByData = new WeakMap<PageReads, ReadonlyMap<string, WalkQuery['read']>>()

/** Returns the fields that are read of each data, with the places that read them. */
function byData({ reads }: PageReads): ReadonlyMap<string, WalkQuery['read']> {
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

const identityOf = (
  name: string,
  query: SiteQuery,
): Pick<WalkQuery, 'data' | 'query' | 'document' | 'sentence'> => ({
  data: name,
  query: query.name,
  document: name === NAVIGATION ? null : queryPath(query.name),
  sentence: sentenceOf(query.meaning),
})

const NO_RESULT = {
  isUnpublished: false,
  parameters: {},
  statements: [],
  rows: 0,
  total: null,
  isEstimated: false,
  shown: [],
  milliseconds: 0,
  read: [],
}

export const plainStatement = (run: StatementRun): StatementRun => ({
  ...run,
  values: run.values.map(plainValue),
})

const plainValue = (value: unknown): unknown => (value instanceof Date ? value.toISOString() : value)

/** E.g. `2026, 11: 4`. */
function countLabel({ count, ...values }: Row): string {
  const texts = Object.values(values).map((one) =>
    typeof one === 'object' && one !== null ? Object.values(one).join(' ') : String(one ?? 'none'),
  )
  return `${texts.join(', ')}: ${String(count)}`
}

function labelOf(source: string, row: Row): { label: string; document: string | null } {
  const text = row['title'] ?? row['name'] ?? `row ${String(row['id'])}`
  const label =
    source === 'comments'
      ? `${String(row['name'])}: ${shorten(String(row['text']).replace(/\s+/g, ' '), 60)}`
      : String(text)
  return { label, document: source === 'posts' ? `content/posts/${String(row['slug'])}.md` : null }
}
