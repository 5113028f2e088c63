/** What the operations of the Queries area do. */
import type { DataSource } from 'typeorm'
import { fieldConditionsOf, parameterOf } from '../../../core/queries/clauses.ts'
import { describeQuery, describeRanked } from '../../../core/queries/explaining/describe.ts'
import { findField } from '../../../core/queries/fields.ts'
import { clausesOf, readMeaning, type QueryMeaning } from '../../../core/queries/meaning.ts'
import { nodesOf, readPlan } from '../../../core/queries/explaining/plan.ts'
import type { CursorPage } from '../../../core/paging/cursor.ts'
import { queryPath } from '../../../core/shapes/documents.ts'
import type { Problem } from '../../../core/shapes/problem.ts'
import { Query } from '../../../core/shapes/schemas.ts'
import { readYaml } from '../../../core/shapes/yaml.ts'
import type { Blog } from '../../reader/blog.ts'
import { addressesOf } from '../../reader/addresses/real-addresses.ts'
import { askedPage, runPage, type ShownPage } from '../../reader/paged.ts'
import { QueryFailure, type Row } from '../../store/statements/run-query.ts'
import { queryInForce, type SiteQuery } from '../../publish/site.ts'
import { whyEmpty } from '../../probes/why-empty.ts'
import { compileQuery, type Visibility } from '../../store/statements/compile-query.ts'
import { explain } from '../../store/statements/explain.ts'
import { typeormCode } from '../../store/statements/typeorm-code.ts'
import { DocumentEntity } from '../../store/entities/definition.ts'
import { rowsFrom } from '../../store/statements/rows-from.ts'
import type { Binding, Statement } from '../../store/statements/statement.ts'
import { walkedRuns } from '../../probes/walked-runs.ts'
import type { BodyOf, QueryOf } from '../../../contract/operations.ts'
import type { QueryPlan, queryOperations, QuerySummary, QueryTrial } from '../../../contract/queries.ts'
import type { HandlersOf } from '../http/handlers-of.ts'
import { Refusal } from '../http/refusal.ts'

/** Rows that are shown; the sentence says when there are more. */
const SHOWN = 100
/** Characters of a value that are shown. */
const LONGEST = 200

type Trial = BodyOf<'POST /api/query/try'>

export function queryHandlers(blog: Blog): HandlersOf<typeof queryOperations> {
  return {
    'GET /api/queries': () => summaries(blog),
    'POST /api/query/try': ({ body }) => tryQuery(blog, body),
    'POST /api/query/plan': ({ body }) => planQuery(blog, body),
    'GET /api/walk/plan': ({ query }) => planWalked(blog, query),
  }
}

async function summaries(blog: Blog): Promise<QuerySummary[]> {
  const { site, database } = blog
  const documents = await database
    .getRepository(DocumentEntity)
    .find({ select: { path: true, version: true } })
  const versions = new Map(documents.map((one) => [one.path, one.version]))
  const uses = new Map<string, QuerySummary['uses']>()
  for (const compiled of site.definition.routes) {
    const { route, method } = compiled
    const found =
      method === 'GET' && !route.redirect ? await addressesOf(blog, site, compiled, { size: 1 }) : undefined
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

/** The query of a text, made ready to run with the parameters given as texts. */
function makeReady(blog: Blog, { name, text, parameters }: Trial): Ready | { problems: Problem[] } {
  const file = queryPath(name)
  const read = readYaml(file, text, Query)
  if (!read.ok) return { problems: read.problems }
  const meaning = readMeaning(read.value)
  if (!meaning.ok)
    return {
      problems: meaning.problems.map(({ path, ...one }) => ({
        file,
        path: `/${path.join('/')}`,
        ...read.placeOf(path),
        ...one,
      })),
    }
  const declared = meaning.meaning
  const typed = typedParameters(declared, parameters)
  const compile = (visibility: Visibility) =>
    compileQuery(blog.database, declared, visibility, blog.site.definition)
  const whole: SiteQuery = {
    name,
    meaning: declared,
    compiled: { reader: compile('reader'), author: compile('author') },
  }
  return { declared, query: queryInForce(blog.database, blog.site, whole, typed), parameters: typed }
}

/** Texts as values of the fields they are compared with; empty ones are not given. */
function typedParameters(
  meaning: QueryMeaning,
  texts: Readonly<Record<string, string>>,
): Record<string, unknown> {
  const values: Record<string, unknown> = {}
  for (const { name, type } of parametersOf(meaning)) {
    const text = (Object.hasOwn(texts, name) ? (texts[name] ?? '') : '').trim()
    if (text === '') continue
    const isNumber = type === 'integer' && /^-?\d{1,10}$/.test(text)
    if (type === 'integer' && !isNumber)
      throw new Refusal({
        status: 422,
        title: `“${text}” is no whole number`,
        detail: `“${name}” is compared with one.`,
      })
    if (type === 'time' && Number.isNaN(Date.parse(text)))
      throw new Refusal({
        status: 422,
        title: `“${text}” is no time`,
        detail: `Write “${name}” as 2026-11-20T09:30Z.`,
      })
    if (/\0/.test(text) || !text.isWellFormed())
      throw new Refusal({ status: 422, title: `“${name}” has a character that no text can have` })
    values[name] = isNumber ? Number(text) : type === 'boolean' ? text === 'true' : text
  }
  return values
}

const parametersOf = (meaning: QueryMeaning): QueryTrial['parameters'] =>
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

const NOTHING = {
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

async function tryQuery(blog: Blog, body: Trial): Promise<QueryTrial> {
  const ready = makeReady(blog, body)
  if ('problems' in ready) return { ...NOTHING, problems: ready.problems.map((one) => ({ ...one })) }
  const { declared, query, parameters } = ready
  const start = performance.now()
  const known = {
    ...NOTHING,
    problems: [],
    sentence: describeQuery(declared),
    notes: notesOn(declared),
    parameters: parametersOf(declared),
    code: typeormCode(declared, blog.site.definition),
  }
  const missing = declared.parameters.filter(
    (one) => !declared.optional.includes(one) && !Object.hasOwn(parameters, one),
  )
  if (missing.length > 0)
    return { ...known, why: `give ${missing.map((one) => `:${one}`).join(' and ')} a value to run it` }
  const { result, shown } = await run(blog, query, parameters, body)
  const names = columnsOf(result.rows)
  const { take } = query.meaning
  const isPaged = take.kind === 'pages'
  const cursorAt = (link: 'previous' | 'next') => {
    const url = (shown as Partial<CursorPage<Row>> | undefined)?.[link]?.url
    return isPaged && take.by === 'cursor' && url !== undefined
      ? new URLSearchParams(url.replace(/^[^?]*/, '')).get(take.parameter)
      : null
  }
  return {
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
          ? `page ${body.page} is past the end`
          : await whyEmpty(blog, query.meaning, parameters),
    statements: result.statements.map((one) => ({
      ...one,
      values: one.values.map((value) => (value instanceof Date ? value.toISOString() : value)),
    })),
    milliseconds: performance.now() - start,
  }
}

async function run(
  blog: Blog,
  query: SiteQuery,
  parameters: Record<string, unknown>,
  { as, page, cursor }: Trial,
): Promise<ShownPage> {
  const { take } = query.meaning
  const asked = take.kind === 'pages' ? (take.by === 'cursor' ? (cursor ?? '') : String(page)) : ''
  const search = take.kind === 'pages' ? new URLSearchParams({ [take.parameter]: asked }).toString() : ''
  try {
    return await runPage(
      { blog, query, as, parameters, at: { path: '', query: '' } },
      askedPage(blog, query, parameters, search),
    )
  } catch (error) {
    if (!(error instanceof QueryFailure)) throw error
    throw new Refusal({ status: 422, title: 'PostgreSQL did not run it', detail: error.message })
  }
}

function notesOn({ orderCompleted, order, take, named, from, countBy }: QueryMeaning): string[] {
  const last = order.at(-1)
  return [
    ...(orderCompleted && take.kind !== 'one' && countBy.length === 0
      ? [`“${last?.descending ? '-' : ''}id” ends the order, so that no two rows tie`]
      : []),
    ...(from === 'posts' && !named.includes('published') ? ['shows drafts and scheduled posts, too'] : []),
    ...(take.kind === 'all' ? ['takes all rows, however many there will be'] : []),
  ]
}

/** What a reader of the rows looks for first. */
const FIRST = ['id', 'title', 'name', 'slug', 'path', 'publishedAt']

function columnsOf(rows: readonly Row[]): string[] {
  const all = new Set(rows.flatMap((row) => Object.keys(row)))
  const place = (name: string) => (FIRST.includes(name) ? FIRST.indexOf(name) : FIRST.length)
  return [...all].sort((a, b) => place(a) - place(b))
}

type Cell = QueryTrial['rows'][number][number]

function cell(value: unknown): Cell {
  if (value === null || value === undefined) return null
  if (typeof value === 'number' || typeof value === 'boolean') return value
  if (value instanceof Date) return value.toISOString()
  if (Array.isArray(value)) return value.map((one) => String(cell(one))).join(', ')
  // A related row is named by its name.
  const text =
    typeof value === 'object' && ('name' in value || 'title' in value)
      ? String((value as Row)['name'] ?? (value as Row)['title'])
      : String(value as string)
  return text.length > LONGEST ? `${text.slice(0, LONGEST)}…` : text
}

async function planQuery(blog: Blog, body: Trial): Promise<QueryPlan> {
  const ready = makeReady(blog, body)
  if ('problems' in ready)
    throw new Refusal({
      status: 422,
      title: 'It cannot be run',
      problems: ready.problems.map((one) => ({ ...one })),
    })
  const { query, parameters } = ready
  const compiled = query.compiled[body.as]
  const { take } = query.meaning
  const offset = take.kind === 'pages' ? (body.page - 1) * take.size : 0
  const ids =
    compiled.many.length === 0
      ? []
      : (await run(blog, query, parameters, body)).result.rows.map((row) => Number(row['id']))
  const counting = compiled.estimate?.bounded ?? compiled.total
  const asked = [
    {
      what: take.kind === 'one' ? 'the row' : 'the rows',
      statement: await rowsFrom(blog.pool, compiled, { parameters, offset }),
    },
    ...(counting ? [{ what: 'how many there are', statement: counting }] : []),
    ...compiled.many.map((one) => ({ what: `their ${one.relation}`, statement: one.statement })),
  ]
  return await planned(
    blog.database,
    asked.map((one) => ({ ...one, binding: { parameters, offset, ids } })),
  )
}

/** The statements of a walked request, with the values they had. */
async function planWalked(
  blog: Blog,
  { path, as = 'reader', gets, data }: QueryOf<'GET /api/walk/plan'>,
): Promise<QueryPlan> {
  const runs = await walkedRuns(blog, path, as, gets)
  const run = runs.find((one) => one.data === data)
  if (!run || run.statements.length === 0)
    throw new Refusal({ status: 404, title: `${path} asks nothing for “${data}”` })
  return await planned(
    blog.database,
    run.statements.map(({ sql, values }, at) => ({
      what: at === 0 ? 'the rows' : `statement ${at + 1}`,
      statement: { sql, slots: values.map((value) => ({ kind: 'fixed' as const, value })) },
      binding: { parameters: {} },
    })),
  )
}

async function planned(
  database: DataSource,
  asked: readonly { what: string; statement: Statement; binding: Binding }[],
): Promise<QueryPlan> {
  const statements: QueryPlan['statements'] = []
  for (const { what, statement, binding } of asked) {
    const plan = readPlan(await explainOrRefuse(database, statement, binding))
    statements.push({
      what,
      sql: statement.sql,
      steps: [...nodesOf(plan.root)].map(({ node: { children: _, ...step }, depth }) => ({ depth, ...step })),
      planningMilliseconds: plan.planningMilliseconds,
      executionMilliseconds: plan.executionMilliseconds,
    })
  }
  return { statements }
}

async function explainOrRefuse(
  database: DataSource,
  ...asked: Parameters<typeof explain> extends [unknown, ...infer Rest] ? Rest : never
) {
  try {
    return await explain(database, ...asked)
  } catch (error) {
    throw new Refusal({
      status: 422,
      title: 'PostgreSQL did not run it',
      detail: error instanceof Error ? error.message : String(error),
    })
  }
}
