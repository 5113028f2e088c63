/** Conditions, counts and ranks as SQL: values are never written into it, they are bound by whoever asks for it. */
import type { Definition } from '../../../core/blog/definition.ts'
import type { FieldCondition, SourceName } from '../../../core/shapes/schemas.ts'
import type { Clause } from '../../../core/queries/clauses.ts'
import { HEADLINE_START, HEADLINE_STOP } from '../../../core/queries/extract.ts'
import { RANKED_MOST } from '../../../core/queries/ranked.ts'
import { findField } from '../../../core/queries/fields.ts'
import { SOURCE, TABLE, type FieldType } from '../../../core/queries/sources.ts'

/** SQL of the ids of a category and of all below it. */
export const idsWithin = (slug: string): string =>
  `WITH RECURSIVE below AS (SELECT top.id FROM category top WHERE top.slug = ${slug} UNION SELECT child.id FROM category child JOIN below ON child.parent_id = below.id) SELECT below.id FROM below`

/** What of a definition decides how times and words are read. */
export type Locale = Pick<Definition, 'timeZone' | 'searchConfiguration'>

/**
 * What somebody typed, as a search: quotes, “or” and “-” have their meaning, and nothing is a fault. Read once a
 * statement, not once a row, as a query of its own.
 */
export const searchQuery = ({ searchConfiguration }: Locale, bound: string) =>
  `(SELECT websearch_to_tsquery('${searchConfiguration}', ${bound}))`

/**
 * How well a post fits a search: one that has the words before one whose title is merely like them. Of the first, where
 * the words stand and how near (ts_rank_cd: title 1, excerpt 0.4, text 0.2); of the others, how alike the title is.
 */
export function rankExpression(alias: string, locale: Locale, bound: string): string {
  const search = searchQuery(locale, bound)
  return `coalesce(1 + nullif(ts_rank_cd(${alias}.search, ${search}), 0), 0.5 * word_similarity(${bound}, ${alias}.title))`
}

/** Words of the extract that shows where a post fits a search; its marks become HTML when the row is read. */
export const EXTRACT = `StartSel="${HEADLINE_START}", StopSel="${HEADLINE_STOP}", MaxFragments=2, MaxWords=26, MinWords=9, FragmentDelimiter=" … "`

/** SQL of a source's named condition; `alias` is the source's table. */
function namedCondition(source: SourceName, name: string, alias: string): string {
  switch (`${source} ${name}`) {
    case 'posts published':
      return `${alias}.published_at <= now()`
    // For the workbench's own questions only; no definition can name them.
    case 'posts draft':
      return `${alias}.published_at IS NULL`
    case 'posts unpublished':
      return `(${alias}.published_at IS NULL OR ${alias}.published_at > now())`
    case 'comments shown':
      return `${alias}.state = 'shown' AND EXISTS (SELECT 1 FROM post visible WHERE visible.id = ${alias}.post_id AND visible.published_at <= now())`
    case 'pages in-navigation':
      return `${alias}.in_navigation`
    default:
      throw new Error(`no SQL for the condition “${name}” of ${source}`)
  }
}

/** SQL of a source's count for one of its rows. */
export function countExpression(source: SourceName, name: string, alias: string): string {
  const published = 'counted.published_at <= now()'
  switch (`${source} ${name}`) {
    case 'posts commentCount':
      return `(SELECT count(*) FROM comment counted WHERE counted.post_id = ${alias}.id AND counted.state = 'shown')`
    case 'categories postCount':
      return `(SELECT count(*) FROM post counted WHERE counted.category_id = ${alias}.id AND ${published})`
    case 'categories postCountWithin':
      return `(SELECT count(*) FROM post counted WHERE counted.category_id = ANY (ARRAY(WITH RECURSIVE below AS (SELECT ${alias}.id UNION SELECT child.id FROM category child JOIN below ON child.parent_id = below.id) SELECT below.id FROM below)) AND ${published})`
    case 'authors postCount':
      return `(SELECT count(*) FROM post counted WHERE counted.author_id = ${alias}.id AND ${published})`
    case 'tags postCount':
      return `(SELECT count(*) FROM post_tag link JOIN post counted ON counted.id = link.post_id WHERE link.tag_id = ${alias}.id AND ${published})`
    default:
      throw new Error(`no SQL for the count “${name}” of ${source}`)
  }
}

const OPERATOR_SQL: Partial<Record<FieldCondition['is'], string>> = {
  equal: '=',
  'not-equal': 'IS DISTINCT FROM',
  less: '<',
  'at-most': '<=',
  more: '>',
  'at-least': '>=',
}
/** Texts are ordered by their code points, whatever the database's own order: then memory agrees with it. */
const ORDERING = new Set<FieldCondition['is']>(['less', 'at-most', 'more', 'at-least'])

/**
 * How rows are found by their words. `by-index`: by the index of words, whatever the words. `row-by-row`: rows are read in
 * another order, and each is looked at. `expected`: as the planner knows it, whose statistics count frequent words; titles
 * with typing errors aside.
 */
export type Search = 'by-index' | 'row-by-row' | 'expected'

export interface ClauseOptions {
  search?: Search
  /** Notes a value or parameter, and gives what stands for it in SQL, e.g. `:value0`. */
  bind(value: unknown): string
  /** What stands for the id of a related row that a condition names by a unique field; else SQL that looks it up. */
  bindId?(relatedTable: string, column: string, value: unknown): string
  /** What stands for the ids of a category and all below it; else SQL that looks them up. */
  bindWithin?(slug: unknown): string
}

/** SQL of clauses; every value of the author's is bound. */
export class ClauseSql {
  readonly #source: SourceName
  readonly #alias: string
  readonly #locale: Locale
  readonly #options: ClauseOptions
  /** To-one relations that the SQL made so far reads: whoever uses it joins them. */
  readonly joins = new Set<string>()

  constructor(source: SourceName, alias: string, locale: Locale, options: ClauseOptions) {
    this.#source = source
    this.#alias = alias
    this.#locale = locale
    this.#options = options
  }

  /** @param plain true where the clause must hold for a row to be kept: then unknown and false are the same */
  of(clause: Clause, plain = true): string {
    switch (clause.kind) {
      case 'named':
        return namedCondition(this.#source, clause.name, this.#alias)
      case 'field':
        return this.#field(clause.condition, plain)
      case 'not':
        return `NOT (${this.of(clause.clause, false)})`
      case 'all':
      case 'any':
        return `(${clause.clauses.map((one) => `(${this.of(one, plain)})`).join(clause.kind === 'all' ? ' AND ' : ' OR ')})`
    }
  }

  #field(condition: FieldCondition, plain: boolean): string {
    const found = findField(this.#source, condition.field)
    if (!found) throw new Error(`${this.#source} have no field “${condition.field}”`)
    const field = condition.field.split('.')[1] ?? 'id'
    if (found.many)
      return `EXISTS (SELECT 1 FROM post_tag link JOIN tag linked ON linked.id = link.tag_id WHERE link.post_id = ${this.#alias}.id AND ${this.#compare(`linked.${field}`, condition, found.field.type)})`
    if (condition.is === 'within') return this.#within(condition, found.relation)
    if (plain && found.relation !== undefined && found.field.unique && condition.is === 'equal')
      return this.#byId(condition, found.relation, field)
    if (found.relation !== undefined) this.joins.add(found.relation)
    const left = expressionOf(this.#source, this.#alias, condition.field, this.#locale)
    return this.#compare(left, condition, found.field.type)
  }

  /**
   * By the id of the related row, looked up once: the same rows as by joining it, and an index on the id and the order
   * serves both.
   */
  #byId({ to }: FieldCondition, relation: string, field: string): string {
    const table = TABLE[SOURCE[this.#source].relations[relation]?.source ?? 'images']
    const id =
      this.#options.bindId?.(table, field, to) ??
      `(SELECT owner.id FROM ${table} owner WHERE owner.${field} = ${this.#options.bind(to)})`
    return `${this.#alias}.${relation}_id = ${id}`
  }

  /** A category, or one below it at any depth. */
  #within({ to }: FieldCondition, relation: string | undefined): string {
    const id = `${this.#alias}.${relation === undefined ? 'id' : `${relation}_id`}`
    const ids = this.#options.bindWithin?.(to) ?? `ARRAY(${idsWithin(this.#options.bind(to))})`
    return `(${id} = ANY (${ids}) AND ${id} IS NOT NULL)`
  }

  #compare(left: string, { is, to }: FieldCondition, type: FieldType): string {
    if (is === 'set') return `${left} IS NOT NULL`
    if (is === 'unset') return `${left} IS NULL`
    if (is === 'in')
      return `${left} IN (${(Array.isArray(to) ? to : [to]).map((value) => this.#options.bind(value)).join(', ')})`
    if (is === 'matches') {
      const bound = this.#options.bind(to)
      const search = searchQuery(this.#locale, bound)
      const how = this.#options.search ?? 'by-index'
      if (how === 'expected')
        return `${this.#alias}.search @@ websearch_to_tsquery('${this.#locale.searchConfiguration}', ${bound})`
      // Plain words find a title with a typing error, too, by the trigrams they share (pg_trgm, word similarity). Where
      // somebody says what must be or must not be, just that is done; and so it is where many rows have the words.
      // Null is like nothing; so the indexes alone decide, and no row is looked at again.
      const some = `SELECT FROM post known WHERE known.search @@ ${search} LIMIT ${RANKED_MOST + 1}`
      const isRare = `(SELECT count(*) FROM (${some}) having_the_words) <= ${RANKED_MOST}`
      const plain = `(SELECT CASE WHEN ${bound} !~* '["-]|\\mor\\M' AND numnode(${search}) > 0 AND ${isRare} THEN ${bound} END)`
      const either = `${this.#alias}.search @@ ${search} OR ${this.#alias}.title %> ${plain}`
      // No index has it in this form.
      return how === 'row-by-row' ? `coalesce(${either}, false)` : `(${either})`
    }
    if (is === 'contains') return `strpos(lower(${left}), lower(${this.#options.bind(to)})) > 0`
    const isText = type === 'text' || type === 'slug' || type === 'path'
    const collation = isText && ORDERING.has(is) ? ' COLLATE "C"' : ''
    return `${left}${collation} ${OPERATOR_SQL[is] ?? '='} ${this.#options.bind(to)}`
  }
}

export function expressionOf(
  source: SourceName,
  alias: string,
  name: string,
  { timeZone }: Pick<Locale, 'timeZone'>,
): string {
  const found = findField(source, name)
  const owner = found?.relation ?? alias
  const partOf = found?.field.partOf
  if (!partOf) return name.includes('.') ? name : `${alias}.${name}`
  const zone = timeZone.replaceAll("'", "''")
  return `extract(${partOf.part} FROM ${owner}.${partOf.time} AT TIME ZONE '${zone}')::int`
}
