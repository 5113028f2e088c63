/** Compiles searches ordered by relevance: only the newest matches are ranked, so frequent words cost no more than rare ones. */
import type { Predicate, QueryPlan, SortKey } from '../../../core/queries/plan.ts'
import { PlanBuilder } from './query-builder.ts'
import type { Search } from './sql.ts'
import { Marker, nested, statement, withOffset, type Statement } from './statement.ts'

/** The pages of a search, by how their rows are found. Both ways find the same rows. */
export interface RankedQuery {
  /** How many matches are ranked, see core/queries/ranked.ts. */
  most: number
  byIndex: RankedPages
  /** Reads rows newest first until enough match: for words that many posts have. Only where an index has that order. */
  rowByRow?: RankedPages & {
    /** For the planner's estimates: the rows that match, those that have the words, and those in that order. */
    estimates: { matching: Statement; worded: Statement; all: Statement }
  }
}

export interface RankedPages {
  /** A page of the ranked matches. */
  best: Statement
  /** A page of the matches that follow them. */
  rest: Statement
}

export interface RankedParts {
  /** Rows that a statement takes. */
  limit: number
  /** Returns a statement for everything of the rows whose ids another one finds. */
  wholeRows(ids: Statement, keys: readonly SortKey[]): Statement
}

export function compileRanked(
  builder: PlanBuilder,
  { limit, wholeRows }: RankedParts,
): RankedQuery | undefined {
  const { plan } = builder
  const { ranked: most, alias, order } = plan
  if (most === undefined) return undefined
  const others = order.slice(1)
  return {
    most,
    byIndex: pages('by-index'),
    ...(isByDate(plan)
      ? {
          rowByRow: {
            ...pages('row-by-row'),
            estimates: {
              matching: estimate(() => true),
              worded: estimate((one) => one.kind === 'named' || one.kind === 'search'),
              all: estimate((one) => one.kind === 'named'),
            },
          },
        }
      : {}),
  }

  function pages(search: Search): RankedPages {
    const matching = () => {
      const rows = builder.join(builder.bindSearched(builder.matching({ search })), plan.orderJoins)
      return builder.order(rows.select(`${alias}.id`, 'id'), others)
    }
    const newest = statement(matching().limit(most))
    const ranked = builder
      .join(builder.bindSearched(builder.table()), plan.orderReads)
      .select(`${alias}.id`, 'id')
      .where(`${alias}.id = ANY (:found)`, { found: new Marker({ kind: 'found-ids' }) })
    const best = withOffset(nested(statement(builder.order(ranked, order).limit(limit)), newest))
    const rest = withOffset(statement(matching().limit(limit)))
    return { best: wholeRows(best, order), rest: wholeRows(rest, others) }
  }

  function estimate(isKept: (predicate: Predicate) => boolean): Statement {
    const rows = builder.restricted(isKept).matching({ forEstimate: true })
    return statement(rows.select(`${alias}.id`, 'id'))
  }
}

/** True for published posts, newest first, which the index `post_published_idx` returns in this order. */
function isByDate({ source, where, order }: QueryPlan): boolean {
  const [, ...others] = order
  const fields = others.map(({ expression }) => ('field' in expression ? expression.field : ''))
  return (
    source === 'posts' &&
    where.some((one) => one.kind === 'search') &&
    where.some((one) => one.kind === 'named' && one.name === 'published') &&
    fields.join() === 'publishedAt,id' &&
    others.every((one) => one.descending === others[0]?.descending)
  )
}
