/** A query as TypeORM code that one would write by hand, to be copied into another project. */
import { fieldConditionsOf, parameterOf } from '../../core/queries/clauses.ts'
import { clausesOf, findField, type QueryMeaning } from '../../core/queries/meaning.ts'
import { SOURCE } from '../../core/queries/sources.ts'
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
  const made = new ClauseSql(from, alias, locale, bind)
  const conditions = clausesOf(meaning).map((clause) => made.of(clause))
  const isOne = (relation: string) => SOURCE[from].relations[relation]?.many === false
  const read = new Set(
    [...fieldConditionsOf(clausesOf(meaning)), ...meaning.order].flatMap(({ field }) =>
      field.includes('.') ? [field.split('.')[0] ?? ''] : [],
    ),
  )
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
  for (const [index, { field, descending }] of meaning.order.entries()) {
    if (field === 'relevance') {
      const searched = fieldConditionsOf(clausesOf(meaning)).find((one) => one.is === 'matches')
      const rank = rankExpression(alias, locale, bind(searched?.to))
      lines.push(
        `.${index === 0 ? 'orderBy' : 'addOrderBy'}(${quoted(rank)}, '${descending ? 'DESC' : 'ASC'}')`,
      )
      continue
    }
    const expression = findField(from, field)?.field.partOf
      ? expressionOf(from, alias, field, locale)
      : field.includes('.')
        ? field
        : `${alias}.${field}`
    const nulls = findField(from, field)?.field.nullable ? `, 'NULLS LAST'` : ''
    lines.push(
      `.${index === 0 ? 'orderBy' : 'addOrderBy'}(${quoted(expression)}, '${descending ? 'DESC' : 'ASC'}'${nulls})`,
    )
  }
  if (Object.keys(values).length > 0)
    lines.push(
      `.setParameters({ ${Object.entries(values)
        .map(([key, value]) => `${key}: ${value}`)
        .join(', ')} })`,
    )
  // With a to-many relation joined, rows of the statement are not rows of the result: TypeORM's take counts those.
  const isMany = meaning.relations.some((relation) => !isOne(relation))
  const [limit, offset] = isMany ? ['take', 'skip'] : ['limit', 'offset']
  if (take.kind === 'one') lines.push(`.${limit}(1)`)
  if (take.kind === 'first') lines.push(`.${limit}(${take.count})`)
  if (take.kind === 'pages') lines.push(`.${offset}((page - 1) * ${take.size})`, `.${limit}(${take.size})`)
  const builder = `database\n${lines.map((line) => `  ${line}`).join('\n')}`
  if (meaning.counts.length > 0) {
    // Counts are no columns of the entity: they come beside it.
    const total = take.kind === 'pages' ? 'const total = await query.getCount()\n' : ''
    return `const query = ${builder}\nconst { entities, raw } = await query.getRawAndEntities()\n${total}`
  }
  const result = { pages: '[rows, total]', one: '[row = null]', first: 'rows', all: 'rows' }[take.kind]
  return `const ${result} = await ${builder}\n  .${take.kind === 'pages' ? 'getManyAndCount' : 'getMany'}()\n`
}

const quoted = (text: string) => (text.includes("'") ? `\`${text.replace(/[`\\$]/g, '\\$&')}\`` : `'${text}'`)
