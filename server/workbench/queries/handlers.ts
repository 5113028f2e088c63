/** Handlers of the Queries area. */
import { fieldConditionsOf, parameterOf } from '../../../core/queries/clauses.ts'
import { describeQuery, describeRanked } from '../../../core/queries/explaining/describe.ts'
import { findField } from '../../../core/queries/fields.ts'
import { clausesOf, type QueryMeaning } from '../../../core/queries/meaning.ts'
import type { CursorPage } from '../../../core/paging/cursor.ts'
import { redirectNeedsData } from '../../../core/routing/addresses/redirect.ts'
import { queryPath } from '../../../core/shapes/documents.ts'
import type { Problem } from '../../../core/shapes/problem.ts'
import { refused, success, type Outcome } from '../../../core/shapes/outcome.ts'
import { readQuery } from '../../../core/queries/read-query.ts'
import type {
  ClockPort,
  CursorKeyPort,
  DatabasePort,
  PoolPort,
  SearchPort,
  SitePort,
} from '../../publish/ports.ts'
import { addressesOf } from '../../reader/addresses/real-addresses.ts'
import { requestedPage, runPage, type ShownPage } from '../../reader/paged.ts'
import { QueryFailure, type Row } from '../../store/statements/run-query.ts'
import { queryInForce, type SiteQuery } from '../../publish/site.ts'
import { whyEmpty } from '../../probes/why-empty.ts'
import { compileQuery } from '../../store/statements/compile-query.ts'
import type { Visibility } from '../../../core/queries/plan.ts'
import { typeormSource } from '../../store/statements/typeorm-source.ts'
import { DocumentEntity } from '../../store/entities/definition.ts'
import { chooseStatement } from '../../store/statements/choose-statement.ts'
import type { BodyOf } from '../../../contract/operations.ts'
import type { QueryPlan, QueryRun, queryOperations, QuerySummary } from '../../../contract/queries.ts'
import type { HandlersOf } from '../http/handlers-of.ts'
import { WORKBENCH_PROBLEMS } from '../problems.ts'
import { explainStatements } from './explain-statements.ts'

/** How many rows are returned. */
const SHOWN = 100
/** The maximum length of a value, in characters. */
const VALUE_LIMIT = 200

type RunRequest = BodyOf<'POST /api/query/run'>
type Ports = PoolPort & SearchPort & DatabasePort & SitePort & ClockPort & CursorKeyPort

export function queryHandlers(blog: Ports): HandlersOf<typeof queryOperations> {
  return {
    'GET /api/queries': async () => success(await summaries(blog)),
    'POST /api/query/run': ({ body }) => runRequest(blog, body),
    'POST /api/query/plan': ({ body }) => explainRequest(blog, body),
  }
}

async function summaries(blog: Ports): Promise<QuerySummary[]> {
  const { site, database } = blog
  const documents = await database
    .getRepository(DocumentEntity)
    .find({ select: { path: true, version: true } })
  const versions = new Map(documents.map((one) => [one.path, one.version]))
  const uses = new Map<string, QuerySummary['uses']>()
  for (const compiled of site.definition.routes) {
    const { route, method } = compiled
    const found =
      method === 'GET' && (!route.redirect || redirectNeedsData(route))
        ? await addressesOf(blog, site, compiled, { size: 1 })
        : undefined
    for (const [data, entry] of Object.entries(route.data ?? {})) {
      const name = typeof entry === 'string' ? entry : entry.query
      const use = {
        route: route.name,
        path: compiled.pattern.text,
        data,
        example: found?.addresses[0]?.path ?? null,
      }
      uses.set(name, [...(uses.get(name) ?? []), use])
    }
  }
  return [...site.queries.values()]
    .map(({ name, meaning }) => ({
      name,
      from: meaning.from,
      take: meaning.take.kind,
      sentence: describeQuery(meaning),
      parameters: parametersOf(meaning),
      version: versions.get(queryPath(name)) ?? 0,
      uses: uses.get(name) ?? [],
    }))
    .sort((a, b) => (a.name < b.name ? -1 : 1))
}

interface Ready {
  declared: QueryMeaning
  query: SiteQuery
  parameters: Record<string, unknown>
}

/** Reads the parameters of a query, and compiles it. */
function prepare(blog: Ports, { name, parameters }: RunRequest, declared: QueryMeaning): Outcome<Ready> {
  const typed = typedParameters(queryPath(name), declared, parameters)
  if (!typed.ok) return typed
  const compile = (visibility: Visibility) =>
    compileQuery(blog.database, declared, visibility, blog.site.definition)
  const whole: SiteQuery = {
    name,
    meaning: declared,
    compiled: { reader: compile('reader'), author: compile('author') },
  }
  const query = queryInForce(blog.database, blog.site, whole, typed.value)
  return success({ declared, query, parameters: typed.value })
}

/** Converts texts to values of the fields that they are compared with. Empty texts are absent parameters. */
function typedParameters(
  file: string,
  meaning: QueryMeaning,
  texts: Readonly<Record<string, string>>,
): Outcome<Record<string, unknown>> {
  const values: Record<string, unknown> = {}
  const problems: Problem[] = []
  for (const { name, type } of parametersOf(meaning)) {
    const text = (Object.hasOwn(texts, name) ? (texts[name] ?? '') : '').trim()
    if (text === '') continue
    const isInteger = type === 'integer' && /^-?\d{1,10}$/.test(text)
    const expected =
      type === 'integer' && !isInteger
        ? 'an integer'
        : type === 'time' && Number.isNaN(Date.parse(text))
          ? 'a time such as 2026-11-20T09:30Z'
          : /\0/.test(text) || !text.isWellFormed()
            ? 'a valid text'
            : undefined
    if (expected === undefined)
      values[name] = isInteger ? Number(text) : type === 'boolean' ? text === 'true' : text
    else
      problems.push({
        file,
        path: `/parameters/${name}`,
        ...WORKBENCH_PROBLEMS['query-parameter-invalid'](name, text, expected),
      })
  }
  return problems.length > 0 ? refused(...problems) : success(values)
}

const parametersOf = (meaning: QueryMeaning): QueryRun['parameters'] =>
  meaning.parameters.map((name) => {
    const condition = fieldConditionsOf(clausesOf(meaning)).find((one) =>
      (Array.isArray(one.to) ? one.to : [one.to]).some((to) => parameterOf(to) === name),
    )
    const field = condition?.field ?? ''
    return {
      name,
      field,
      type: findField(meaning.from, field)?.field.type ?? 'text',
      optional: meaning.optional.includes(name),
    }
  })

const NO_RUN = {
  sentence: '',
  notes: [],
  parameters: [],
  columns: [],
  rows: [],
  count: 0,
  total: null,
  isEstimated: false,
  size: null,
  by: null,
  previous: null,
  next: null,
  why: null,
  statements: [],
  milliseconds: 0,
  code: '',
}

async function runRequest(blog: Ports, body: RunRequest): Promise<Outcome<QueryRun>> {
  // While the text is being typed, its problems are a result.
  const read = readQuery(queryPath(body.name), body.text, blog.site.definition.comments)
  if (!read.ok) return success({ ...NO_RUN, problems: read.problems.map((one) => ({ ...one })) })
  const ready = prepare(blog, body, read.value)
  if (!ready.ok) return ready
  const { declared, query, parameters } = ready.value
  const start = performance.now()
  const known = {
    ...NO_RUN,
    problems: [],
    sentence: describeQuery(declared),
    notes: notesOn(declared),
    parameters: parametersOf(declared),
    code: typeormSource(declared, blog.site.definition),
  }
  const missing = declared.parameters.filter(
    (one) => !declared.optional.includes(one) && !Object.hasOwn(parameters, one),
  )
  if (missing.length > 0)
    return success({
      ...known,
      why: `Enter ${missing.map((one) => `:${one}`).join(' and ')} to run the query.`,
    })
  const page = await run(blog, query, parameters, body)
  if (!page.ok) return page
  const { result, shown } = page.value
  const names = columnsOf(result.rows)
  const { take } = query.meaning
  const isPaged = take.kind === 'pages'
  const cursorAt = (link: 'previous' | 'next') => {
    const url = (shown as Partial<CursorPage<Row>> | undefined)?.[link]?.url
    return isPaged && take.by === 'cursor' && url !== undefined
      ? new URLSearchParams(url.replace(/^[^?]*/, '')).get(take.parameter)
      : null
  }
  return success({
    ...known,
    columns: names,
    rows: result.rows.slice(0, SHOWN).map((row) => names.map((name) => cell(row[name]))),
    count: result.rows.length,
    total: result.total ?? null,
    isEstimated: result.isEstimated,
    size: isPaged ? take.size : null,
    by: isPaged ? take.by : null,
    previous: cursorAt('previous'),
    next: cursorAt('next'),
    why:
      result.rows.length > 0
        ? describeRanked(query.meaning, result.total)
        : result.total
          ? `Page ${body.page} is beyond the last.`
          : (await whyEmpty(blog, query.meaning, parameters)).why,
    statements: result.statements.map((one) => ({
      ...one,
      values: one.values.map((value) => (value instanceof Date ? value.toISOString() : value)),
    })),
    milliseconds: performance.now() - start,
  })
}

async function run(
  blog: Ports,
  query: SiteQuery,
  parameters: Record<string, unknown>,
  { as, page, cursor }: RunRequest,
): Promise<Outcome<ShownPage>> {
  const { take } = query.meaning
  const wanted = take.kind === 'pages' ? (take.by === 'cursor' ? (cursor ?? '') : String(page)) : ''
  const search = new URLSearchParams(take.kind === 'pages' ? { [take.parameter]: wanted } : {})
  try {
    const shown = await runPage(
      { ports: blog, query, as, parameters, at: { path: '', search: new URLSearchParams() } },
      requestedPage(blog, query, parameters, search),
    )
    return success(shown)
  } catch (error) {
    if (!(error instanceof QueryFailure)) throw error
    const file = queryPath(query.name)
    return refused({ file, ...WORKBENCH_PROBLEMS['query-run-failed'](error.message) })
  }
}

function notesOn({ orderCompleted, order, take, named, from, countBy }: QueryMeaning): string[] {
  const last = order.at(-1)
  return [
    ...(orderCompleted && take.kind !== 'one' && countBy.length === 0
      ? [`“${last?.descending ? '-' : ''}id” was added to the order so that rows never tie.`]
      : []),
    ...(from === 'posts' && !named.includes('published') ? ['Also returns drafts and scheduled posts.'] : []),
    ...(take.kind === 'all' ? ['Returns all rows, however many there are.'] : []),
  ]
}

/** The columns that come first. */
const FIRST = ['id', 'title', 'name', 'slug', 'path', 'publishedAt']

function columnsOf(rows: readonly Row[]): string[] {
  const all = new Set(rows.flatMap((row) => Object.keys(row)))
  const place = (name: string) => (FIRST.includes(name) ? FIRST.indexOf(name) : FIRST.length)
  return [...all].sort((a, b) => place(a) - place(b))
}

type Cell = QueryRun['rows'][number][number]

function cell(value: unknown): Cell {
  if (value === null || value === undefined) return null
  if (typeof value === 'number' || typeof value === 'boolean') return value
  if (value instanceof Date) return value.toISOString()
  if (Array.isArray(value)) return value.map((one) => String(cell(one))).join(', ')
  // A related row is shown by its name.
  const text =
    typeof value === 'object' && ('name' in value || 'title' in value)
      ? String((value as Row)['name'] ?? (value as Row)['title'])
      : String(value as string)
  return text.length > VALUE_LIMIT ? `${text.slice(0, VALUE_LIMIT)}…` : text
}

async function explainRequest(blog: Ports, body: RunRequest): Promise<Outcome<QueryPlan>> {
  const read = readQuery(queryPath(body.name), body.text, blog.site.definition.comments)
  if (!read.ok) return read
  const ready = prepare(blog, body, read.value)
  if (!ready.ok) return ready
  const { query, parameters } = ready.value
  const compiled = query.compiled[body.as]
  const { take } = query.meaning
  const offset = take.kind === 'pages' ? (body.page - 1) * take.size : 0
  let ids: number[] = []
  if (compiled.many.length > 0) {
    const page = await run(blog, query, parameters, body)
    if (!page.ok) return page
    ids = page.value.result.rows.map((row) => Number(row['id']))
  }
  const counting = compiled.estimate?.bounded ?? compiled.total
  const statements = [
    {
      what: take.kind === 'one' ? 'The row' : 'The rows',
      statement: await chooseStatement(blog.pool, compiled, { parameters, offset }),
    },
    ...(counting ? [{ what: 'The number of rows', statement: counting }] : []),
    ...compiled.many.map((one) => ({ what: `Their ${one.relation}`, statement: one.statement })),
  ]
  return await explainStatements(
    blog.database,
    statements.map((one) => ({ ...one, binding: { parameters, offset, ids } })),
  )
}
