/**
 * Compiles a query's meaning to SQL through TypeORM's QueryBuilder, once; each request only binds values.
 * One statement a listing, one for its total, one for each to-many relation; never one a row. Field names come from
 * the catalogue in core/queries/sources.ts, values are always bound.
 */
import { LRUCache } from 'lru-cache'
import type { DataSource, ObjectLiteral } from 'typeorm'
import { fieldConditionsOf } from '../../../core/queries/clauses.ts'
import { findField } from '../../../core/queries/fields.ts'
import { clausesOf, isNullableIn, isSearch, type QueryMeaning } from '../../../core/queries/meaning.ts'
import { RANKED_MOST } from '../../../core/queries/ranked.ts'
import type { Wanted } from '../../../core/queries/wanted.ts'
import { RELATED_FIELDS, SOURCE, type FieldType } from '../../../core/queries/sources.ts'
import { applyConditions, builderOf, relationsIn } from './builder.ts'
import {
  countExpression,
  expressionOf,
  EXTRACT,
  rankExpression,
  searchQuery,
  type Locale,
} from './clause-sql.ts'
import { TagEntity } from '../entities/content.ts'
import { compileRanked, type RankedQuery } from './compile-ranked.ts'
import { keysetSql, ordered, type SqlKey } from './keyset.ts'
import { Marker, nested, slotFor, statement, withOffset, type Builder, type Statement } from './statement.ts'

/** How one column of a raw row becomes a value of the template's row. */
export interface OutputColumn {
  key: string
  relation?: string
  field: string
  type: FieldType | 'count' | 'extract'
}

export interface CompiledQuery {
  /** The rows; of pages, those of the first. Which statement is run is decided in rows-from.ts. */
  items: Statement
  /** Pages by number after the first: first the ids, then all else of these rows only. */
  further?: Statement
  total?: Statement
  /** Of searches with the best first: all their rows. */
  ranked?: RankedQuery
  /** Where the total may be estimated: the same rows, to be explained, and to be counted as far as a bound. */
  estimate?: { explained: Statement; bounded: Statement; bound: number }
  /** Of pages by cursor: the rows after and before one, and whether there is a row there at all. */
  cursor?: Record<'after' | 'before', { items: Statement; probe: Statement }> & {
    /** The row at a place, by its cursor: for those who know the place only. */
    nth: Statement
  }
  /** To-many relations, filled for all rows at once. */
  many: { relation: string; statement: Statement; columns: OutputColumn[] }[]
  columns: OutputColumn[]
}

/** Which rows a query may see: a reader's, or also what is not published yet. */
export type Visibility = 'reader' | 'author'

/** An author sees one row that is not published yet by its address; listings stay as readers see them. */
export const liftsPublished = ({ take, named }: QueryMeaning, visibility: Visibility): boolean =>
  visibility === 'author' && take.kind === 'one' && named.includes('published')

/** Queries compiled before: a save compiles the whole definition again, of which it changed one document. */
const KEPT = 1_000
const compiled = new WeakMap<DataSource, LRUCache<string, CompiledQuery>>()

/**
 * @param locale of the blog: years, months and days of times are read by its clock, words in its language
 * @param wanted what of the rows is fetched; else everything
 */
export function compileQuery(
  database: DataSource,
  meaning: QueryMeaning,
  visibility: Visibility,
  locale: Locale,
  wanted?: Wanted,
): CompiledQuery {
  let known = compiled.get(database)
  if (!known) compiled.set(database, (known = new LRUCache({ max: KEPT })))
  const key = `${visibility} ${locale.timeZone} ${locale.searchConfiguration} ${wanted?.join() ?? '*'} ${JSON.stringify(meaning)}`
  const found = known.get(key)
  if (found) return found
  const made = compile(database, meaning, visibility, locale, wanted)
  known.set(key, made)
  return made
}

function compile(
  database: DataSource,
  meaning: QueryMeaning,
  visibility: Visibility,
  locale: Locale,
  wanted: Wanted | undefined,
): CompiledQuery {
  const isWanted = (path: string) => wanted?.includes(path) ?? true
  const isRelationWanted = (relation: string) => wanted?.some((one) => one.startsWith(`${relation}.`)) ?? true
  if (meaning.countBy.length > 0) return compileCounts(database, meaning, locale)
  const alias = SOURCE[meaning.from].words[0]
  const single = meaning.take.kind === 'one'
  const builder = builderOf(database, meaning)
  const isOne = (relation: string) => SOURCE[meaning.from].relations[relation]?.many === false
  const joined = applyConditions(builder, meaning, alias, locale, {
    liftPublished: liftsPublished(meaning, visibility),
  })
  const counting = builder.clone()

  const selected = meaning.relations.filter((one) => isOne(one) && isRelationWanted(one))
  const ordering = relationsIn(meaning.order).filter(isOne)
  const columns: OutputColumn[] = []
  const selections: { expression: string; key: string }[] = []
  const select = (expression: string, column: OutputColumn) => {
    selections.push({ expression, key: column.key })
    columns.push(column)
  }
  for (const [field, { long, type, partOf }] of Object.entries(SOURCE[meaning.from].fields)) {
    if (!partOf && type !== 'words' && type !== 'relevance' && (!long || single) && isWanted(field))
      select(`${alias}.${field}`, { key: field, field, type })
  }
  for (const relation of selected) {
    const { source } = SOURCE[meaning.from].relations[relation] ?? { source: 'images' as const }
    for (const field of RELATED_FIELDS[source].filter((one) => isWanted(`${relation}.${one}`))) {
      const type =
        source === 'images'
          ? /^(id|width|height)$/.test(field)
            ? 'integer'
            : 'text'
          : (SOURCE[source].fields[field]?.type ?? 'text')
      // The alternative text belongs to the post's use of an image, not to the image.
      const expression =
        source === 'images' && field === 'text' ? `${alias}.imageText` : `${relation}.${field}`
      select(expression, { key: `${relation}_${field}`, relation, field, type })
    }
  }
  for (const count of meaning.counts.filter(isWanted))
    select(countExpression(meaning.from, count, alias), { key: count, field: count, type: 'count' })

  const searched = fieldConditionsOf(clausesOf(meaning)).find((one) => one.is === 'matches')
  if (searched) {
    if (isWanted('found')) {
      const plain = `${alias}.excerpt || ' ' || regexp_replace(${alias}.html, '<[^>]*>', ' ', 'g')`
      const extract = `ts_headline('${locale.searchConfiguration}', ${plain}, ${searchQuery(locale, ':searched')}, '${EXTRACT}')`
      select(extract, { key: 'found', field: 'found', type: 'extract' })
    }
  }

  const keys = orderKeys(meaning, alias, locale)
  const { take } = meaning
  const isCursor = take.kind === 'pages' && take.by === 'cursor'
  const edges = keys.map(({ expression }, index) => ({
    expression: `CAST(${expression} AS text)`,
    key: cursorColumn(index),
  }))
  const selecting = (from: Builder, chosen: readonly { expression: string; key: string }[]) => {
    from.select([])
    for (const { expression, key } of chosen) from.addSelect(expression, key)
    return from
  }
  const joining = (from: Builder, relations: Iterable<string>, known: ReadonlySet<string>) => {
    if (searched) from.setParameter('searched', slotFor(searched.to))
    for (const relation of new Set(relations))
      if (!known.has(relation)) from.leftJoin(`${alias}.${relation}`, relation)
    return from
  }
  const shown = isCursor ? [...selections, ...edges] : selections
  // Rows with nothing but what decides which they are, and their order.
  const bare = joining(builder.clone(), ordering, joined)
  const whole = selecting(joining(builder, [...selected, ...ordering], joined), shown)
  const forward = ordered(whole.clone(), keys, false)
  if (take.kind === 'one') forward.limit(1)
  if (take.kind === 'first') forward.limit(take.count)
  // One more than are shown, where nothing else tells whether there are more.
  const isCounted = take.kind === 'pages' && take.by === 'number' && take.count === 'exact'
  const size =
    take.kind === 'pages' ? take.size + (isCounted ? 0 : 1) : take.kind === 'first' ? take.count : 0
  if (take.kind === 'pages') forward.limit(size)
  const isNumbered = take.kind === 'pages' && take.by === 'number'

  const ranked = compileRanked(database, {
    meaning,
    alias,
    locale,
    keys,
    size,
    joining: (from, known) => joining(from, ordering, known),
    whole: ofIds,
  })
  const many = meaning.relations
    .filter((relation) => SOURCE[meaning.from].relations[relation]?.many && isRelationWanted(relation))
    .map((relation) => compileMany(database, relation))
  return {
    // Without an offset, else: a plan made for any offset is made for a tenth of all rows, and joins them all.
    items: ranked?.byIndex.best ?? statement(forward),
    ...(ranked ? { ranked } : isNumbered ? { further: further() } : {}),
    ...(take.kind === 'pages' && take.count !== 'none'
      ? { total: statement(counting.select('count(*)', 'total')) }
      : {}),
    ...(take.kind === 'pages' && take.count === 'estimated'
      ? { estimate: compileEstimate(database, meaning, locale) }
      : {}),
    ...(isCursor ? { cursor: { after: turned('after'), before: turned('before'), nth: nth() } } : {}),
    many,
    columns,
  }

  function nth(): Statement {
    return withOffset(statement(ordered(selecting(bare.clone(), edges), keys, false).limit(1)))
  }

  function further(): Statement {
    const ids = ordered(bare.clone().select(`${alias}.id`, 'id'), keys, false).limit(size)
    return ofIds(withOffset(statement(ids)), keys)
  }

  function ofIds(ids: Statement, by: readonly SqlKey[]): Statement {
    const rows = selecting(
      joining(builderOf(database, meaning), [...selected, ...ordering], new Set()),
      shown,
    )
    rows.where(`${alias}.id = ANY (:found)`, { found: new Marker({ kind: 'found-ids' }) })
    return nested(statement(ordered(rows, by, false)), ids)
  }

  function turned(toward: 'after' | 'before') {
    const values: Record<string, Marker> = {}
    const where = keysetSql(keys, toward, (index) => {
      values[`cursor${index}`] = new Marker({ kind: 'cursor', index })
      return `:cursor${index}`
    })
    const beyond = (from: Builder) => from.clone().andWhere(where).setParameters(values)
    const isReversed = toward === 'before'
    return {
      items: statement(ordered(beyond(whole), keys, isReversed).limit(size)),
      probe: statement(beyond(bare).select('1', 'there').limit(1)),
    }
  }
}

/** Name of the column with a value of the cursor that begins at a row. */
export const cursorColumn = (index: number) => `cursor_${index}`

/** What rows are ordered by, as SQL. */
export function orderKeys(meaning: QueryMeaning, alias: string, locale: Locale): SqlKey[] {
  return meaning.order.map(({ field, descending }) =>
    field === 'relevance'
      ? {
          expression: rankExpression(alias, locale, ':searched'),
          descending,
          nullable: false,
          type: 'relevance',
        }
      : {
          expression: expressionOf(meaning.from, alias, field, locale),
          descending,
          nullable: isNullableIn(meaning, field),
          type: findField(meaning.from, field)?.field.type ?? 'text',
        },
  )
}

/** Rows are counted exactly up to here where the total may be estimated; of a search, those that are ranked. */
const COUNTED_EXACTLY = 10_000

function compileEstimate(database: DataSource, meaning: QueryMeaning, locale: Locale) {
  const alias = SOURCE[meaning.from].words[0]
  const explained = builderOf(database, meaning)
  applyConditions(explained, meaning, alias, locale, { toBeExplained: true })
  const bounded = builderOf(database, meaning)
  applyConditions(bounded, meaning, alias, locale)
  const bound = isSearch(meaning) ? RANKED_MOST : COUNTED_EXACTLY
  const some = statement(bounded.select('1', 'there').limit(bound + 1))
  return {
    explained: statement(explained.select(`${alias}.id`, 'id')),
    bounded: { sql: `SELECT count(*) AS total FROM (${some.sql}) AS counted`, slots: some.slots },
    bound,
  }
}

/** How many rows there are for each combination of the fields that a query counts by. */
function compileCounts(database: DataSource, meaning: QueryMeaning, locale: Locale): CompiledQuery {
  const alias = SOURCE[meaning.from].words[0]
  const builder = builderOf(database, meaning)
  const joined = applyConditions(builder, meaning, alias, locale)
  for (const relation of new Set(relationsIn(meaning.countBy.map((field) => ({ field }))))) {
    if (joined.has(relation)) continue
    // A row counts once for each of its tags; one without any counts for none.
    if (SOURCE[meaning.from].relations[relation]?.many) builder.innerJoin(`${alias}.${relation}`, relation)
    else builder.leftJoin(`${alias}.${relation}`, relation)
  }
  builder.select([])
  const columns: OutputColumn[] = []
  for (const name of meaning.countBy) {
    const [first = '', second] = name.split('.')
    const key = name.replace('.', '_')
    const expression = expressionOf(meaning.from, alias, name, locale)
    builder.addSelect(expression, key).addGroupBy(expression)
    const type = findField(meaning.from, name)?.field.type ?? 'text'
    columns.push(
      second === undefined ? { key, field: name, type } : { key, relation: first, field: second, type },
    )
  }
  builder.addSelect('count(*)', 'count')
  columns.push({ key: 'count', field: 'count', type: 'count' })
  for (const { field, descending } of meaning.order)
    builder.addOrderBy(
      field === 'count' ? 'count(*)' : expressionOf(meaning.from, alias, field, locale),
      descending ? 'DESC' : 'ASC',
      'NULLS LAST',
    )
  if (meaning.take.kind === 'first') builder.limit(meaning.take.count)
  return { items: statement(builder), many: [], columns }
}

function compileMany(database: DataSource, relation: string) {
  const builder: Builder = database
    .getRepository<ObjectLiteral>(TagEntity)
    .createQueryBuilder('tag')
    .innerJoin('post_tag', 'link', 'link.tag_id = tag.id')
    .select('link.post_id', 'owner')
  const columns: OutputColumn[] = RELATED_FIELDS.tags.map((field) => ({
    key: field,
    field,
    type: SOURCE.tags.fields[field]?.type ?? 'text',
  }))
  for (const { key, field } of columns) builder.addSelect(`tag.${field}`, key)
  builder
    .where('link.post_id = ANY(:ids)', { ids: new Marker({ kind: 'ids' }) })
    .orderBy('tag.name')
    .addOrderBy('tag.id')
  return { relation, statement: statement(builder), columns }
}
