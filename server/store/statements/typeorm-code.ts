/** A query as TypeORM code that one would write by hand, to be copied into another project. */
import { fieldConditionsOf, parameterOf } from '../../../core/queries/clauses.ts'
import { findField } from '../../../core/queries/fields.ts'
import { clausesOf, isNullableIn, type QueryMeaning } from '../../../core/queries/meaning.ts'
import { rankedMost } from '../../../core/queries/ranked.ts'
import { SOURCE } from '../../../core/queries/sources.ts'
import { relationsIn } from './builder.ts'
import { orderKeys } from './compile-query.ts'
import { keysetSql, type SqlKey } from './keyset.ts'
import { ClauseSql, countExpression, expressionOf, rankExpression, type Locale } from './clause-sql.ts'

const ENTITY_NAME = {
  posts: 'PostEntity',
  pages: 'PageEntity',
  categories: 'CategoryEntity',
  tags: 'TagEntity',
  authors: 'AuthorEntity',
  comments: 'CommentEntity',
} as const

/**
 * The code reads `database` (a DataSource), the entity's class, the query's parameters by their names in an object
 * `parameters`, and `page` where it is paged. It is both TypeScript and JavaScript.
 */
export function typeormCode(meaning: QueryMeaning, locale: Locale): string {
  const { from, take } = meaning
  const alias = SOURCE[from].words[0]
  const values: Record<string, string> = {}
  const bind = (value: unknown): string => {
    const parameter = parameterOf(value)
    const key = parameter?.replace(/-/g, '_') ?? `value${Object.keys(values).length + 1}`
    values[key] =
      parameter === undefined ? JSON.stringify(value) : `parameters[${JSON.stringify(parameter)}] ?? null`
    return `:${key}`
  }
  const made = new ClauseSql(from, alias, locale, { bind })
  const conditions = clausesOf(meaning).map((clause) => made.of(clause))
  const isOne = (relation: string) => SOURCE[from].relations[relation]?.many === false
  if (meaning.countBy.length > 0) return countingCode(meaning, locale, conditions, made.joins, values)
  const read = new Set([...made.joins, ...relationsIn(meaning.order)])
  const lines = [`.getRepository(${ENTITY_NAME[from]})`, `.createQueryBuilder('${alias}')`]
  for (const relation of meaning.relations)
    lines.push(`.leftJoinAndSelect('${alias}.${relation}', '${relation}')`)
  for (const relation of read)
    if (isOne(relation) && !meaning.relations.includes(relation))
      lines.push(`.leftJoin('${alias}.${relation}', '${relation}')`)
  for (const count of meaning.counts)
    lines.push(`.addSelect(${quoted(countExpression(from, count, alias))}, '${count}')`)
  for (const [index, sql] of conditions.entries())
    lines.push(`.${index === 0 ? 'where' : 'andWhere'}(${quoted(sql)})`)
  // With a to-many relation joined, rows of the statement are not rows of the result: TypeORM's take counts those.
  const isMany = meaning.relations.some((relation) => !isOne(relation))
  for (const [index, { field, descending }] of meaning.order.entries()) {
    const { sql, isField, nullable } = orderedBy(field)
    // What TypeORM's take is to be ordered by must be a field, or have a name.
    const isNamed = isMany && !isField
    if (isNamed) lines.push(`.addSelect(${quoted(sql)}, 'by_${index + 1}')`)
    const by = isNamed ? `'by_${index + 1}'` : quoted(sql)
    const nulls = nullable ? `, 'NULLS LAST'` : ''
    lines.push(`.${index === 0 ? 'orderBy' : 'addOrderBy'}(${by}, '${descending ? 'DESC' : 'ASC'}'${nulls})`)
  }
  lines.push(...parameterLines(values))
  const [limit, offset] = isMany ? ['take', 'skip'] : ['limit', 'offset']
  if (take.kind === 'one') lines.push(`.${limit}(1)`)
  if (take.kind === 'first') lines.push(`.${limit}(${take.count})`)
  if (take.kind === 'pages' && take.by === 'cursor') return cursorCode(meaning, take, locale, lines, limit)
  if (take.kind === 'pages') lines.push(`.${offset}((page - 1) * ${take.size})`, `.${limit}(${take.size})`)
  const builder = `database\n${lines.map((line) => `  ${line}`).join('\n')}`
  if (meaning.counts.length > 0) {
    // Counts are no columns of the entity: they come beside it.
    const total = take.kind === 'pages' ? 'const total = await query.getCount()\n' : ''
    return `const query = ${builder}\nconst { entities, raw } = await query.getRawAndEntities()\n${total}`
  }
  const result = { pages: '[rows, total]', one: '[row = null]', first: 'rows', all: 'rows' }[take.kind]
  return `const ${result} = await ${builder}\n  .${take.kind === 'pages' ? 'getManyAndCount' : 'getMany'}()\n`

  function orderedBy(field: string): { sql: string; isField: boolean; nullable: boolean } {
    if (field === 'relevance') {
      const searched = fieldConditionsOf(clausesOf(meaning)).find((one) => one.is === 'matches')
      const rank = rankExpression(alias, locale, bind(searched?.to))
      const most = rankedMost(meaning)
      if (most === undefined) return { sql: rank, isField: false, nullable: false }
      // A row that a to-many relation repeats has one place.
      const place = `dense_rank() OVER (ORDER BY ${afterFirst(orderKeys(meaning, alias, locale))})`
      return { sql: `CASE WHEN ${place} <= ${most} THEN ${rank} END`, isField: false, nullable: true }
    }
    const nullable = isNullableIn(meaning, field)
    if (findField(from, field)?.field.partOf)
      return { sql: expressionOf(from, alias, field, locale), isField: false, nullable }
    return { sql: field.includes('.') ? field : `${alias}.${field}`, isField: true, nullable }
  }
}

/** Rows as they are ordered after the first key, in SQL. */
const afterFirst = (keys: readonly SqlKey[]): string =>
  keys
    .slice(1)
    .map(
      ({ expression, descending, nullable }) =>
        `${expression} ${descending ? 'DESC' : 'ASC'}${nullable ? ' NULLS LAST' : ''}`,
    )
    .join(', ')

const parameterLines = (values: Readonly<Record<string, string>>): string[] => {
  const entries = Object.entries(values).map(([key, value]) => `${key}: ${value}`)
  return entries.length === 0 ? [] : [`.setParameters({ ${entries.join(', ')} })`]
}

/** One page after the row with the values `after` (of what it is ordered by, as texts); null begins at the beginning. */
function cursorCode(
  meaning: QueryMeaning,
  { size }: { size: number },
  locale: Locale,
  lines: readonly string[],
  limit: string,
): string {
  const alias = SOURCE[meaning.from].words[0]
  const where = keysetSql(orderKeys(meaning, alias, locale), 'after', (index) => `:after${index}`)
  const values = meaning.order.map((_, index) => `after${index}: after[${index}]`).join(', ')
  return [
    `const query = database\n${lines.map((line) => `  ${line}`).join('\n')}`,
    `if (after) query.andWhere(${quoted(where)}, { ${values} })`,
    `// One more than are shown tells whether there is a next page.`,
    `const found = await query.${limit}(${size + 1}).getMany()`,
    `const [rows, hasNext] = [found.slice(0, ${size}), found.length > ${size}]\n`,
  ].join('\n')
}

function countingCode(
  meaning: QueryMeaning,
  locale: Locale,
  conditions: readonly string[],
  joined: ReadonlySet<string>,
  values: Readonly<Record<string, string>>,
): string {
  const { from, take, countBy, order } = meaning
  const alias = SOURCE[from].words[0]
  const expression = (field: string) => expressionOf(from, alias, field, locale)
  const lines = [`.getRepository(${ENTITY_NAME[from]})`, `.createQueryBuilder('${alias}')`]
  const counted = relationsIn(countBy.map((field) => ({ field })))
  for (const relation of new Set([...joined, ...counted])) {
    const join = SOURCE[from].relations[relation]?.many ? 'innerJoin' : 'leftJoin'
    lines.push(`.${join}('${alias}.${relation}', '${relation}')`)
  }
  for (const [index, field] of countBy.entries()) {
    const add = index === 0 ? 'select' : 'addSelect'
    lines.push(`.${add}(${quoted(expression(field))}, '${field.replace('.', '_')}')`)
  }
  lines.push(`.addSelect('count(*)', 'count')`)
  for (const [index, sql] of conditions.entries())
    lines.push(`.${index === 0 ? 'where' : 'andWhere'}(${quoted(sql)})`)
  for (const [index, field] of countBy.entries())
    lines.push(`.${index === 0 ? 'groupBy' : 'addGroupBy'}(${quoted(expression(field))})`)
  for (const [index, { field, descending }] of order.entries()) {
    const by = field === 'count' ? 'count(*)' : expression(field)
    const direction = descending ? 'DESC' : 'ASC'
    lines.push(`.${index === 0 ? 'orderBy' : 'addOrderBy'}(${quoted(by)}, '${direction}', 'NULLS LAST')`)
  }
  lines.push(...parameterLines(values))
  if (take.kind === 'first') lines.push(`.limit(${take.count})`)
  return `const rows = await database\n${lines.map((line) => `  ${line}`).join('\n')}\n  .getRawMany()\n`
}

const quoted = (text: string) => (text.includes("'") ? `\`${text.replace(/[`\\$]/g, '\\$&')}\`` : `'${text}'`)
