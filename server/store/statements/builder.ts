/** TypeORM's QueryBuilder for a query's source and conditions: what every statement about its rows begins with. */
import type { DataSource, ObjectLiteral } from 'typeorm'
import { clausesOf, type QueryMeaning } from '../../../core/queries/meaning.ts'
import { SOURCE } from '../../../core/queries/sources.ts'
import { ClauseSql, type Locale, type Search } from './clause-sql.ts'
import {
  AuthorEntity,
  CategoryEntity,
  CommentEntity,
  PageEntity,
  PostEntity,
  TagEntity,
} from '../entities/content.ts'
import { Marker, slotFor, type Builder } from './statement.ts'

const ENTITY = {
  posts: PostEntity,
  pages: PageEntity,
  categories: CategoryEntity,
  tags: TagEntity,
  authors: AuthorEntity,
  comments: CommentEntity,
} as const

export const builderOf = (database: DataSource, { from }: Pick<QueryMeaning, 'from'>): Builder =>
  database.getRepository<ObjectLiteral>(ENTITY[from]).createQueryBuilder(SOURCE[from].words[0])

/** Relations whose fields are named. */
export const relationsIn = (fields: readonly { field: string }[]): string[] =>
  fields.flatMap(({ field }) => (field.includes('.') ? [field.split('.')[0] ?? ''] : []))

export interface ConditionOptions {
  /** Leaves “published” out. */
  liftPublished?: boolean
  /** For the planner's estimate only: ids stand in the text, for statistics know how many rows have a certain one. */
  toBeExplained?: boolean
  search?: Search
}

/** @returns relations that were joined for the conditions */
export function applyConditions(
  builder: Builder,
  meaning: QueryMeaning,
  alias: string,
  locale: Locale,
  { liftPublished = false, toBeExplained = false, search }: ConditionOptions = {},
): ReadonlySet<string> {
  const values: Record<string, Marker> = {}
  const note = (marker: Marker) => {
    const key = `value${Object.keys(values).length}`
    values[key] = marker
    return `:${key}`
  }
  const made = new ClauseSql(meaning.from, alias, locale, {
    bind: (value) => note(slotFor(value)),
    ...(toBeExplained ? { search: 'expected' as const } : search ? { search } : {}),
    ...(toBeExplained
      ? {
          bindId: (table, column, value) =>
            note(new Marker({ kind: 'related-id', table, column, value: slotFor(value).slot })),
          bindWithin: (slug) => note(new Marker({ kind: 'ids-within', value: slotFor(slug).slot })),
        }
      : {}),
  })
  for (const clause of clausesOf(meaning)) {
    if (liftPublished && clause.kind === 'named' && clause.name === 'published') continue
    builder.andWhere(made.of(clause))
  }
  builder.setParameters(values)
  for (const relation of made.joins) builder.leftJoin(`${alias}.${relation}`, relation)
  return made.joins
}
