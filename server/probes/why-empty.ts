/** Finds out why a query returned nothing: which of its conditions, left out, lets rows through. Only for walks. */
import type { FieldCondition } from '../../core/shapes/schemas.ts'
import { parameterOf } from '../../core/queries/clauses.ts'
import { describeCondition } from '../../core/queries/explaining/describe.ts'
import type { QueryMeaning } from '../../core/queries/meaning.ts'
import { SOURCE } from '../../core/queries/sources.ts'
import { compileQuery } from '../store/statements/compile-query.ts'
import type { Blog } from '../reader/blog.ts'
import { runQuery, type Row } from '../store/statements/run-query.ts'
import type { Walk } from '../reader/walk/walk.ts'

export async function explainEmptyResults(blog: Blog, walk: Walk): Promise<void> {
  for (const { run, query, parameters } of walk.emptyRuns) {
    if (run.total !== null && run.total > 0)
      run.why = `past the end: there are ${run.total}, and this page would begin after the last`
    else run.why = await whyEmpty(blog, query.meaning, parameters)
  }
}

/** Why a query gives nothing for some parameters, as a sentence without its full stop. */
export async function whyEmpty(
  blog: Blog,
  meaning: QueryMeaning,
  parameters: Record<string, unknown>,
): Promise<string> {
  const [singular, plural] = SOURCE[meaning.from].words
  const first = async (changed: Partial<QueryMeaning>): Promise<Row | undefined> => {
    const order = [{ field: 'id', descending: false }]
    const probe: QueryMeaning = {
      ...meaning,
      ...changed,
      take: { kind: 'one' },
      relations: [],
      counts: [],
      countBy: [],
      order,
    }
    const compiled = compileQuery(blog.database, probe, 'reader', blog.site.definition)
    return (await runQuery(blog.pool, { name: 'probe', meaning: probe, compiled, parameters })).rows[0]
  }
  for (const name of meaning.named) {
    const row = await first({ named: meaning.named.filter((one) => one !== name) })
    if (row) return withheld(name, singular, row, blog.clock())
  }
  const searched = meaning.conditions.find((one) => one.is === 'matches')
  if (searched) {
    const text = String(parameters[parameterOf(searched.to) ?? ''] ?? searched.to ?? '')
    const { searchConfiguration } = blog.site.definition
    const { rows } = await blog.pool.query<{ words: number }>(
      'SELECT numnode(websearch_to_tsquery($1::regconfig, $2)) AS words',
      [searchConfiguration, text],
    )
    if (rows[0]?.words === 0)
      return `“${text}” has no word to search for: words that are in every text are passed over`
  }
  for (const condition of meaning.conditions) {
    const others = meaning.conditions.filter((one) => one !== condition)
    if (others.length > 0 && (await first({ conditions: others })))
      return `no ${singular} keeps “${withValues(condition, parameters)}” together with the other conditions`
  }
  const sole = meaning.conditions[0]
  return sole ? `there is no ${singular} whose ${withValues(sole, parameters)}` : `there are no ${plural}`
}

function withheld(condition: string, singular: string, row: Row, now: Date): string {
  if (condition !== 'published') return `there is one, but it is not “${condition}”`
  const at = row['publishedAt']
  if (!(at instanceof Date))
    return `“${String(row['title'])}” has this address but is a draft: the ${singular} has no publication date`
  const days = Math.max(1, Math.round((at.getTime() - now.getTime()) / 86_400_000))
  return `“${String(row['title'])}” has this address but is scheduled: it is published in ${days} ${days === 1 ? 'day' : 'days'}`
}

function withValues(condition: FieldCondition, parameters: Record<string, unknown>): string {
  return describeCondition(condition).replace(/:([a-z][a-z0-9-]*)/g, (whole, name: string) =>
    Object.hasOwn(parameters, name) ? `“${String(parameters[name])}”` : whole,
  )
}
