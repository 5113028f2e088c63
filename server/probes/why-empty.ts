/** Finds out why a query returned no rows: which of its conditions excludes all of them. Only walks use it. */
import type { FieldCondition } from '../../core/shapes/schemas.ts'
import { parameterOf } from '../../core/queries/clauses.ts'
import { describeCondition } from '../../core/queries/explaining/describe.ts'
import type { QueryMeaning } from '../../core/queries/meaning.ts'
import { SOURCE } from '../../core/queries/sources.ts'
import { compileQuery } from '../store/statements/compile-query.ts'
import type { ClockPort, DatabasePort, PoolPort, SitePort } from '../publish/ports.ts'
import { searchTermsIn } from '../store/content/texts.ts'
import { runQuery, type Row } from '../store/statements/run-query.ts'
import type { Walk } from '../reader/walk/walk.ts'

/** The ports that a probe uses. */
export type ProbePorts = PoolPort & DatabasePort & SitePort & ClockPort

/** Adds the reason to every query of a walk that returned no rows. */
export async function explainEmptyResults(blog: ProbePorts, walk: Walk): Promise<void> {
  for (const { run, query, parameters } of walk.emptyRuns) {
    if (run.total !== null && run.total > 0)
      run.why = `This page is beyond the last: there are only ${run.total} rows.`
    else Object.assign(run, await whyEmpty(blog, query.meaning, parameters))
  }
}

export interface EmptyReason {
  /** As a sentence. */
  why: string
  /** Whether a row is a draft or scheduled, and would be returned if it were published. */
  isUnpublished: boolean
}

const because = (why: string, isUnpublished = false): EmptyReason => ({ why, isUnpublished })

/** Returns why a query returns no rows for given parameters. */
export async function whyEmpty(
  blog: ProbePorts,
  meaning: QueryMeaning,
  parameters: Readonly<Record<string, unknown>>,
): Promise<EmptyReason> {
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
    if ((await searchTermsIn(blog.pool, searchConfiguration, text)) === 0)
      return because(`“${text}” has no word to search for: words that are in every text are ignored.`)
  }
  for (const condition of meaning.conditions) {
    const others = meaning.conditions.filter((one) => one !== condition)
    if (others.length > 0 && (await first({ conditions: others })))
      return because(
        `No ${singular} matches “${withValues(condition, parameters)}” together with the other conditions.`,
      )
  }
  const sole = meaning.conditions[0]
  return because(
    sole ? `There is no ${singular} whose ${withValues(sole, parameters)}.` : `There are no ${plural}.`,
  )
}

function withheld(condition: string, singular: string, row: Row, now: Date): EmptyReason {
  if (condition !== 'published')
    return because(`There is a matching ${singular}, but it is not “${condition}”.`)
  const at = row['publishedAt']
  if (!(at instanceof Date))
    return because(
      `“${String(row['title'])}” has this address but is a draft: the ${singular} has no publication date.`,
      true,
    )
  const days = Math.max(1, Math.round((at.getTime() - now.getTime()) / 86_400_000))
  return because(
    `“${String(row['title'])}” has this address but is scheduled: it will be published in ${days} ${days === 1 ? 'day' : 'days'}.`,
    true,
  )
}

function withValues(condition: FieldCondition, parameters: Readonly<Record<string, unknown>>): string {
  return describeCondition(condition).replace(/:([a-z][a-z0-9-]*)/g, (whole, name: string) =>
    Object.hasOwn(parameters, name) ? `“${String(parameters[name])}”` : whole,
  )
}
