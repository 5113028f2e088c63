/** Explains how PostgreSQL runs statements: every step with its time and rows. */
import type { DataSource } from 'typeorm'
import type { QueryPlan } from '../../../contract/queries.ts'
import { nodesOf, readPlan } from '../../../core/queries/explaining/execution-plan.ts'
import { refused, success, type Outcome } from '../../../core/shapes/outcome.ts'
import { explain } from '../../store/statements/explain.ts'
import type { Binding, Statement } from '../../store/statements/statement.ts'
import { WORKBENCH_PROBLEMS } from '../problems.ts'

export interface ExplainedStatement {
  /** What the statement returns. */
  what: string
  statement: Statement
  binding: Binding
}

export async function explainStatements(
  database: DataSource,
  explained: readonly ExplainedStatement[],
): Promise<Outcome<QueryPlan>> {
  const statements: QueryPlan['statements'] = []
  for (const { what, statement, binding } of explained) {
    let plan
    try {
      plan = readPlan(await explain(database, statement, binding))
    } catch (error) {
      const reason = error instanceof Error ? error.message : String(error)
      return refused({ file: 'queries', ...WORKBENCH_PROBLEMS['query-run-failed'](reason) })
    }
    statements.push({
      what,
      sql: statement.sql,
      steps: [...nodesOf(plan.root)].map(({ node: { children: _, ...step }, depth }) => ({ depth, ...step })),
      planningMilliseconds: plan.planningMilliseconds,
      executionMilliseconds: plan.executionMilliseconds,
    })
  }
  return success({ statements })
}
