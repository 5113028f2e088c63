/** Handlers of the Checks area. */
import type { CheckReport, checkOperations } from '../../../contract/checks.ts'
import { RULES } from '../../../core/checks/rules/all.ts'
import { success, unknown } from '../../../core/shapes/outcome.ts'
import { findingKey, type Checks } from '../../checks/service.ts'
import type { HandlersOf } from '../http/handlers-of.ts'
import { WORKBENCH_PROBLEMS } from '../problems.ts'

export const checkHandlers = (checks: Checks): HandlersOf<typeof checkOperations> => ({
  'GET /api/checks': async () => success(await report(checks)),
  'GET /api/checks/fixes': async ({ query: { rule, subject } }) => {
    const fixes = await checks.fixesOf(rule, subject)
    return fixes ? success(fixes) : unknown({ file: 'checks', ...WORKBENCH_PROBLEMS['finding-unknown']() })
  },
  'POST /api/checks/run': async () => {
    await checks.run()
    return success(await report(checks))
  },
  'PUT /api/checks/dismissed': async ({ body: { rule, subject, reason } }) => {
    await checks.dismiss(rule, subject, reason)
    return success(await report(checks))
  },
  'DELETE /api/checks/dismissed': async ({ query: { rule, subject } }) => {
    await checks.reopen(rule, subject)
    return success(await report(checks))
  },
})

async function report(checks: Checks): Promise<CheckReport> {
  const { findings, proven, runs, running, finishedAt, milliseconds } = checks.state
  const dismissed = await checks.dismissed()
  return {
    findings: findings.map((one) => {
      const known = dismissed.get(findingKey(one.rule, one.subject))
      const { fixes, ...finding } = one
      return {
        ...finding,
        hasFixes: fixes.length > 0,
        dismissed: known ? { reason: known.reason, at: known.at.toISOString() } : null,
      }
    }),
    proven,
    failed: runs.flatMap(({ rule, failed }) => (failed === null ? [] : [{ rule, message: failed }])),
    rules: RULES.map(({ id, area, meaning, why }) => ({ id, area, meaning, why })),
    running,
    finishedAt: finishedAt?.toISOString() ?? null,
    milliseconds,
  }
}
