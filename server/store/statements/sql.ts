/** Prints the predicates and expressions of a query plan as SQL. Values are never written into it; callers bind them. */
import type { Definition } from '../../../core/blog/definition.ts'
import { HEADLINE_START, HEADLINE_STOP } from '../../../core/queries/extract.ts'
import type { PlanExpression, PlanValue, Predicate } from '../../../core/queries/plan.ts'
import { RANKED_MOST } from '../../../core/queries/ranked.ts'
import { SOURCE, TABLE } from '../../../core/queries/sources.ts'
import type { FieldCondition, SourceName } from '../../../core/shapes/schemas.ts'

/** The parts of a definition that decide how times and words are read. */
export type Locale = Pick<Definition, 'timeZone' | 'searchConfiguration'>

/** Returns SQL for the ids of the category with a slug and of all categories below it. */
export const idsWithin = (slug: string): string =>
  `WITH RECURSIVE below AS (SELECT top.id FROM category top WHERE top.slug = ${slug} UNION SELECT child.id FROM category child JOIN below ON child.parent_id = below.id) SELECT below.id FROM below`

/**
 * Returns SQL for what a reader typed, as a search query: quotes, “or” and “-” have their meaning, and no text is invalid.
 * As a subquery it is evaluated once per statement, not once per row.
 */
const searchQuery = ({ searchConfiguration }: Locale, bound: string) =>
  `(SELECT websearch_to_tsquery('${searchConfiguration}', ${bound}))`

/** Options of the extract of a search result; its markers become HTML when the row is read. */
const EXTRACT = `StartSel="${HEADLINE_START}", StopSel="${HEADLINE_STOP}", MaxFragments=2, MaxWords=26, MinWords=9, FragmentDelimiter=" … "`

/** Returns SQL for a named condition of a source. */
function namedCondition(source: SourceName, name: string, alias: string): string {
  switch (`${source} ${name}`) {
    case 'posts published':
      return `${alias}.published_at <= now()`
    // Only the workbench's own queries use these; a definition cannot name them.
    case 'posts draft':
      return `${alias}.published_at IS NULL`
    case 'posts unpublished':
      return `(${alias}.published_at IS NULL OR ${alias}.published_at > now())`
    case 'comments approved':
      return `${alias}.state = 'shown' AND ${alias}.parents_shown`
    case 'comments shown':
      return `${alias}.state = 'shown' AND ${alias}.parents_shown AND EXISTS (SELECT 1 FROM post visible WHERE visible.id = ${alias}.post_id AND visible.published_at <= now())`
    case 'pages in-navigation':
      return `${alias}.in_navigation`
    default:
      throw new Error(`No SQL for the condition “${name}” of ${source}`)
  }
}

/** Returns SQL for a count of a source's row. */
function countExpression(source: SourceName, name: string, alias: string): string {
  const count = SOURCE[source].counts[name]
  if (!count) throw new Error(`“${source}” has no count “${name}”`)
  if (count.tally !== undefined)
    return `coalesce((SELECT tally.shown FROM ${count.tally} tally WHERE tally.${count.by}_id = ${alias}.id), 0)`
  const counted = SOURCE[count.source].relations[count.by]
  const condition = namedCondition(count.source, count.named, 'counted')
  const table = TABLE[count.source]
  if (counted?.many)
    return `(SELECT count(*) FROM post_tag link JOIN ${table} counted ON counted.id = link.post_id WHERE link.tag_id = ${alias}.id AND ${condition})`
  const own = TABLE[source]
  const leads = count.within
    ? `= ANY (ARRAY(WITH RECURSIVE below AS (SELECT ${alias}.id UNION SELECT child.id FROM ${own} child JOIN below ON child.parent_id = below.id) SELECT below.id FROM below))`
    : `= ${alias}.id`
  return `(SELECT count(*) FROM ${table} counted WHERE counted.${count.by}_id ${leads} AND ${condition})`
}

const OPERATOR_SQL: Partial<Record<FieldCondition['is'], string>> = {
  equal: '=',
  'not-equal': 'IS DISTINCT FROM',
  less: '<',
  'at-most': '<=',
  more: '>',
  'at-least': '>=',
}
/** Operators that compare texts by code points, whatever the database's collation, as the evaluation in memory does. */
const ORDERING = new Set<FieldCondition['is']>(['less', 'at-most', 'more', 'at-least'])

/**
 * How rows are found by their words. `by-index`: through the index of words. `row-by-row`: rows are read in another order,
 * and each is tested. `estimate`: in the form whose selectivity the planner knows from its statistics, without titles
 * that are merely similar.
 */
export type Search = 'by-index' | 'row-by-row' | 'estimate'

export interface SqlOptions {
  alias: string
  locale: Locale
  search?: Search
  /** Notes a value and returns its placeholder, e.g. `:value0`. */
  bind(value: PlanValue): string
  /** Returns a placeholder for the id of a related row with a unique value; without it, SQL looks the id up. */
  bindId?(table: string, field: string, value: PlanValue): string
  /** Returns a placeholder for the ids of a category and those below it; without it, SQL looks the ids up. */
  bindWithin?(slug: PlanValue): string
}

/** Prints a predicate. */
export function predicateSql(source: SourceName, predicate: Predicate, options: SqlOptions): string {
  const { alias } = options
  switch (predicate.kind) {
    case 'named':
      return namedCondition(source, predicate.name, alias)
    case 'compare':
      return compareSql(expressionSql(predicate.expression, options), predicate, options)
    case 'related': {
      const { relation, table, field, value } = predicate
      // An index on the id and the order serves both the condition and the order.
      const id =
        options.bindId?.(table, field, value) ??
        `(SELECT owner.id FROM ${table} owner WHERE owner.${field} = ${options.bind(value)})`
      return `${alias}.${relation}_id = ${id}`
    }
    case 'within': {
      const id = `${alias}.${predicate.relation === undefined ? 'id' : `${predicate.relation}_id`}`
      const ids = options.bindWithin?.(predicate.slug) ?? `ARRAY(${idsWithin(options.bind(predicate.slug))})`
      return `(${id} = ANY (${ids}) AND ${id} IS NOT NULL)`
    }
    case 'some-related':
      return `EXISTS (SELECT 1 FROM post_tag link JOIN tag ${predicate.relation} ON ${predicate.relation}.id = link.tag_id WHERE link.post_id = ${alias}.id AND ${predicateSql(source, predicate.predicate, options)})`
    case 'search':
      return searchSql(options.bind(predicate.value), options)
    case 'not':
      return `NOT (${predicateSql(source, predicate.predicate, options)})`
    case 'all':
    case 'any':
      return `(${predicate.predicates
        .map((one) => `(${predicateSql(source, one, options)})`)
        .join(predicate.kind === 'all' ? ' AND ' : ' OR ')})`
  }
}

function compareSql(
  left: string,
  { is, type, values }: Predicate & { kind: 'compare' },
  { bind }: SqlOptions,
): string {
  if (is === 'set') return `${left} IS NOT NULL`
  if (is === 'unset') return `${left} IS NULL`
  if (is === 'in') return `${left} IN (${values.map(bind).join(', ')})`
  const right = values.map(bind).join(', ')
  if (is === 'contains') return `strpos(lower(${left}), lower(${right})) > 0`
  const isText = type === 'text' || type === 'slug' || type === 'path'
  const collation = isText && ORDERING.has(is) ? ' COLLATE "C"' : ''
  return `${left}${collation} ${OPERATOR_SQL[is] ?? '='} ${right}`
}

/**
 * Plain words also find titles with typing errors, by the trigrams they share (pg_trgm, word similarity). Operators switch
 * that off, and so do words that many rows have.
 */
function searchSql(bound: string, { alias, locale, search = 'by-index' }: SqlOptions): string {
  if (search === 'estimate')
    return `${alias}.search @@ websearch_to_tsquery('${locale.searchConfiguration}', ${bound})`
  const query = searchQuery(locale, bound)
  const some = `SELECT FROM post known WHERE known.search @@ ${query} LIMIT ${RANKED_MOST + 1}`
  const isRare = `(SELECT count(*) FROM (${some}) having_the_words) <= ${RANKED_MOST}`
  // NULL is similar to nothing, so the indexes alone decide and no row is tested again.
  const plain = `(SELECT CASE WHEN ${bound} !~* '["-]|\\mor\\M' AND numnode(${query}) > 0 AND ${isRare} THEN ${bound} END)`
  const either = `${alias}.search @@ ${query} OR ${alias}.title %> ${plain}`
  // No index serves the expression in this form.
  return search === 'row-by-row' ? `coalesce(${either}, false)` : `(${either})`
}

/** Placeholder of the searched text in expressions. */
const SEARCHED = ':searched'

/** Prints an expression. The relevance and the extract of a search read the placeholder `searched`. */
export function expressionSql(
  expression: PlanExpression,
  { alias, locale, searched = SEARCHED }: { alias: string; locale: Locale; searched?: string },
): string {
  switch (expression.kind) {
    case 'field':
      return `${expression.owner}.${expression.field}`
    case 'time-part': {
      const zone = locale.timeZone.replaceAll("'", "''")
      return `extract(${expression.part} FROM ${expression.owner}.${expression.field} AT TIME ZONE '${zone}')::int`
    }
    case 'count':
      return countExpression(expression.source, expression.name, alias)
    case 'row-count':
      return 'count(*)'
    case 'relevance': {
      // A post that has the words ranks above one whose title is merely similar. Among the first, ts_rank_cd weighs where
      // the words are and how near each other (title 1, excerpt 0.4, text 0.2); among the others, similarity decides.
      const rank = `ts_rank_cd(${alias}.search, ${searchQuery(locale, searched)})`
      return `coalesce(1 + nullif(${rank}, 0), 0.5 * word_similarity(${searched}, ${alias}.title))`
    }
    case 'extract': {
      // An automatic excerpt is the start of the text, which an extract must not repeat.
      const plain = `coalesce(${alias}.written_excerpt || ' ', '') || regexp_replace(${alias}.html, '<[^>]*>', ' ', 'g')`
      return `ts_headline('${locale.searchConfiguration}', ${plain}, ${searchQuery(locale, searched)}, '${EXTRACT}')`
    }
  }
}
