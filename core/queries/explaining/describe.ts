/** Describes in one sentence what a query returns. */
import type { FieldCondition } from '../../shapes/schemas.ts'
import type { Clause } from '../clauses.ts'
import type { OrderKey, QueryMeaning } from '../meaning.ts'
import { rankedMost } from '../ranked.ts'
import { SOURCE } from '../sources.ts'

const OPERATOR_WORDS: Record<FieldCondition['is'], string> = {
  equal: 'is',
  'not-equal': 'is not',
  less: 'is less than',
  'at-most': 'is at most',
  more: 'is more than',
  'at-least': 'is at least',
  in: 'is one of',
  contains: 'contains',
  matches: 'match',
  within: 'is, or is below,',
  set: 'is set',
  unset: 'is not set',
}

/** Returns e.g. `published posts whose category.slug is :category, newest first, 6 per page`. */
export function describeQuery(meaning: QueryMeaning): string {
  const [singular, plural] = SOURCE[meaning.from].words
  const noun = meaning.named.reduceRight(
    (rows, name) => SOURCE[meaning.from].conditions[name]?.phrase.replace('…', () => rows) ?? rows,
    meaning.take.kind === 'one' ? singular : plural,
  )
  const where = [
    ...meaning.conditions.map(describeCondition),
    ...meaning.groups.map((one) => describeClause(one, meaning.from)),
  ].join(' and ')
  const parts = [where === '' ? noun : `${noun} whose ${where}`]
  if (meaning.countBy.length > 0) {
    const counts = `the number of ${parts.join('')} by ${meaning.countBy.join(', ')}, ${describeOrder(meaning.order)}`
    return meaning.take.kind === 'first' ? `the first ${meaning.take.count} of ${counts}` : counts
  }
  if (meaning.take.kind !== 'one' || !meaning.byUnique) parts.push(describeOrder(meaning.order))
  switch (meaning.take.kind) {
    case 'one':
      return `one ${parts.join(', ')}`
    case 'first':
      return `the first ${meaning.take.count} ${parts.join(', ')}`
    case 'all':
      return `all ${parts.join(', ')}`
    case 'pages':
      return `${parts.join(', ')}, ${meaning.take.size} per page${meaning.take.by === 'cursor' ? ' by cursor' : ''}`
  }
}

export function describeCondition({ field, is, to, when }: FieldCondition): string {
  const value =
    to === undefined ? '' : to === '' ? ' “”' : ` ${Array.isArray(to) ? to.join(', ') : String(to)}`
  return `${field} ${OPERATOR_WORDS[is]}${value}${when === 'given' ? ' (if given)' : ''}`
}

/** Describes a clause; groups are in parentheses, so that “and” and “or” are unambiguous. */
function describeClause(clause: Clause, from: QueryMeaning['from']): string {
  switch (clause.kind) {
    case 'named':
      return SOURCE[from].conditions[clause.name]?.keeps ?? clause.name
    case 'field':
      return describeCondition(clause.condition)
    case 'not':
      return `not (${describeClause(clause.clause, from)})`
    case 'all':
    case 'any': {
      const parts = clause.clauses.map((one) => describeClause(one, from))
      return parts.length === 1
        ? (parts[0] ?? '')
        : `(${parts.join(clause.kind === 'all' ? ' and ' : ' or ')})`
    }
  }
}

/**
 * Explains the order of a search with more matches than are ranked; null if all are ranked.
 * @param total number of matches, where it is known
 */
export function describeRanked(meaning: QueryMeaning, total: number | undefined): string | null {
  const most = rankedMost(meaning)
  if (most === undefined || total === undefined || total <= most) return null
  const ranked = most.toLocaleString('en-GB')
  return `More than ${ranked} rows match. The first ${ranked}, ${describeOrder(meaning.order.slice(1))}, are ranked; the others follow in that order.`
}

function describeOrder(order: readonly OrderKey[]): string {
  const [first] = order
  if (!first) return 'in no order'
  if (first.field === 'relevance') return 'best match first'
  if (first.field === 'count') return first.descending ? 'most first' : 'fewest first'
  if (/Count(Within)?$/.test(first.field))
    return `by ${first.field}, ${first.descending ? 'most' : 'fewest'} first`
  if (/At$/.test(first.field)) return first.descending ? 'newest first' : 'oldest first'
  return `by ${first.field}${first.descending ? ', descending' : ''}`
}
