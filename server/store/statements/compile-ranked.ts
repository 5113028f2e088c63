/** Searches with the best first: the newest matches are ranked, so that a word of every post costs no more than others. */
import type { DataSource } from 'typeorm'
import type { FieldCondition } from '../../../core/shapes/schemas.ts'
import type { QueryMeaning } from '../../../core/queries/meaning.ts'
import { rankedMost } from '../../../core/queries/ranked.ts'
import { applyConditions, builderOf } from './builder.ts'
import type { Locale, Search } from './clause-sql.ts'
import { ordered, type SqlKey } from './keyset.ts'
import { Marker, nested, statement, withOffset, type Builder, type Statement } from './statement.ts'

/** The pages of a search, by how their rows are found; all ways find the same ones. */
export interface RankedQuery {
  /** So many are ranked, see core/queries/ranked.ts. */
  most: number
  byIndex: RankedPages
  /** Rows are read newest first until enough match: for words that many posts have. None where no index is in that order. */
  rowByRow?: RankedPages & {
    /** To be explained, not run: the rows that match, those that have the words, and those that are in that order. */
    expected: { matching: Statement; worded: Statement; all: Statement }
  }
}

export interface RankedPages {
  /** Of those that are ranked. */
  best: Statement
  /** Of those that follow them. */
  rest: Statement
}

export interface RankedParts {
  meaning: QueryMeaning
  alias: string
  locale: Locale
  keys: readonly SqlKey[]
  /** Rows that are asked for. */
  size: number
  /** Joins what the order reads, where the conditions have not, and binds what is searched. */
  joining(from: Builder, joined: ReadonlySet<string>): Builder
  /** Everything of the rows whose ids a statement finds, in an order. */
  whole(ids: Statement, keys: readonly SqlKey[]): Statement
}

export function compileRanked(database: DataSource, parts: RankedParts): RankedQuery | undefined {
  const { meaning, alias, locale, keys, size, joining, whole } = parts
  const most = rankedMost(meaning)
  if (most === undefined) return undefined
  const others = keys.slice(1)
  return {
    most,
    byIndex: pages('by-index'),
    ...(isByDate(meaning)
      ? {
          rowByRow: {
            ...pages('row-by-row'),
            expected: {
              matching: expected(meaning),
              worded: expected({ ...meaning, groups: [], conditions: meaning.conditions.filter(isWords) }),
              all: expected({ ...meaning, groups: [], conditions: [] }),
            },
          },
        }
      : {}),
  }

  function pages(search: Search): RankedPages {
    const matching = () => {
      const from = builderOf(database, meaning)
      const joined = applyConditions(from, meaning, alias, locale, { search })
      return ordered(joining(from, joined).select(`${alias}.id`, 'id'), others, false)
    }
    const newest = statement(matching().limit(most))
    const ranked = joining(builderOf(database, meaning), new Set())
      .select(`${alias}.id`, 'id')
      .where(`${alias}.id = ANY (:found)`, { found: new Marker({ kind: 'found-ids' }) })
    const best = withOffset(nested(statement(ordered(ranked, keys, false).limit(size)), newest))
    const rest = withOffset(statement(matching().limit(size)))
    return { best: whole(best, keys), rest: whole(rest, others) }
  }

  function expected(of: QueryMeaning): Statement {
    const from = builderOf(database, of)
    applyConditions(from, of, alias, locale, { toBeExplained: true })
    return statement(from.select(`${alias}.id`, 'id'))
  }
}

/** Published posts, the newest first: `post_published_idx` has them so. */
function isByDate({ from, named, conditions, order }: QueryMeaning): boolean {
  const isSearched = conditions.some(isWords)
  const [, ...others] = order
  return (
    from === 'posts' &&
    isSearched &&
    named.includes('published') &&
    others.map((one) => one.field).join() === 'publishedAt,id' &&
    others.every((one) => one.descending === others[0]?.descending)
  )
}

const isWords = ({ is }: FieldCondition): boolean => is === 'matches'
