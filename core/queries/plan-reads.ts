/**
 * What a query reads, derived from its plan: the fields that decide which rows it returns and in which order, and those
 * that its rows show. Caching asks here what a change can affect, so there is no other list of fields.
 *
 * Fields have the names of queries. A relation is read by its foreign key (`categoryId`), or by its own name where many
 * rows are related (`tags`).
 */
import type { PlanExpression, Predicate, QueryPlan } from './plan.ts'
import { SOURCE } from './sources.ts'
import type { SourceName } from '../shapes/schemas.ts'

/** Fields of a source, those of its related rows, and its counts. */
export interface FieldsRead {
  own: Set<string>
  /** By relation. */
  related: Map<string, Set<string>>
  /** Names of counts. */
  counts: Set<string>
}

export interface PlanReads {
  source: SourceName
  /** What decides which rows are returned, and their order. */
  deciding: FieldsRead
  /** The relations that the order or the groups read. */
  arranging: Set<string>
  /** What the rows show. */
  shown: FieldsRead
  /** Whether any row of a tree decides, as with “within”. */
  isTree: boolean
  /** Whether other rows than those that match decide, as in a search that also finds similar titles. */
  isSearch: boolean
  /** Whether time alone can change the result. */
  timed: boolean
}

/** The fields of which a search consists: the index of words, and titles that are similar. */
const SEARCHED = ['search', 'title']
/** The fields that the extract of a search result is made of. */
const EXTRACTED = ['search', 'writtenExcerpt', 'html']

export function readsOfPlan(plan: QueryPlan): PlanReads {
  const reader = new PlanReader(plan)
  for (const predicate of plan.where) reader.predicate(predicate)
  for (const { relation } of [...plan.conditionJoins, ...plan.orderReads])
    reader.relation(reader.reads.deciding, relation)
  // The groups of a count are part of its order.
  for (const { expression } of plan.order) reader.expression(reader.reads.deciding, expression)
  for (const { expression } of plan.columns) reader.expression(reader.reads.shown, expression)
  for (const relation of [...plan.relations, ...plan.manyRelations])
    reader.relation(reader.reads.shown, relation)
  for (const relation of plan.manyRelations) reader.wholeRelation(relation)
  return reader.reads
}

const noFields = (): FieldsRead => ({ own: new Set(), related: new Map(), counts: new Set() })

class PlanReader {
  readonly #plan: QueryPlan
  readonly reads: PlanReads

  constructor(plan: QueryPlan) {
    this.#plan = plan
    this.reads = {
      source: plan.source,
      deciding: noFields(),
      arranging: new Set(plan.orderReads.map((one) => one.relation)),
      shown: noFields(),
      isTree: false,
      isSearch: plan.searched !== undefined,
      timed: false,
    }
  }

  predicate(predicate: Predicate): void {
    const { deciding } = this.reads
    switch (predicate.kind) {
      case 'named':
        return this.#named(predicate.name)
      case 'compare':
        return this.expression(deciding, predicate.expression)
      case 'related':
        return this.#field(deciding, predicate.relation, predicate.field)
      case 'within':
        this.reads.isTree = true
        for (const field of ['slug', 'parentId'])
          this.#field(deciding, predicate.relation ?? this.#plan.alias, field)
        return
      case 'some-related':
        this.relation(deciding, predicate.relation)
        return this.predicate(predicate.predicate)
      case 'search':
        for (const field of SEARCHED) deciding.own.add(field)
        return
      case 'all':
      case 'any':
        for (const one of predicate.predicates) this.predicate(one)
        return
      case 'not':
        return this.predicate(predicate.predicate)
    }
  }

  #named(name: string): void {
    const { deciding } = this.reads
    const condition = SOURCE[this.#plan.source].conditions[name]
    for (const field of condition?.fields ?? []) {
      const [first = '', second] = field.split('.')
      if (second === undefined) deciding.own.add(field)
      else this.#field(deciding, first, second)
    }
    this.reads.timed ||= condition?.timed === true
  }

  expression(into: FieldsRead, expression: PlanExpression): void {
    switch (expression.kind) {
      case 'field':
      case 'time-part':
        return this.#field(into, expression.owner, expression.field)
      case 'count': {
        into.counts.add(expression.name)
        const count = SOURCE[expression.source].counts[expression.name]
        this.reads.timed ||=
          count !== undefined && SOURCE[count.source].conditions[count.named]?.timed === true
        return
      }
      case 'relevance':
        for (const field of SEARCHED) into.own.add(field)
        return
      case 'extract':
        for (const field of EXTRACTED) into.own.add(field)
        return
      case 'row-count':
    }
  }

  relation(into: FieldsRead, relation: string): void {
    into.own.add(keyOfRelation(this.#plan.source, relation))
  }

  /** Adds all fields of a relation of which all fields are fetched. */
  wholeRelation(relation: string): void {
    const source = SOURCE[this.#plan.source].relations[relation]?.source ?? 'images'
    if (source === 'images') return
    for (const field of Object.keys(SOURCE[source].fields)) this.#field(this.reads.shown, relation, field)
  }

  #field(into: FieldsRead, owner: string, field: string): void {
    if (owner === this.#plan.alias) {
      into.own.add(field)
      return
    }
    this.relation(into, owner)
    const known = into.related.get(owner)
    if (known) known.add(field)
    else into.related.set(owner, new Set([field]))
  }
}

/** Returns the field by which a row leads to related rows: `categoryId` for `category`, and `tags` for `tags`. */
export const keyOfRelation = (source: SourceName, relation: string): string =>
  SOURCE[source].relations[relation]?.many ? relation : `${relation}Id`
