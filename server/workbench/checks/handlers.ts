/** What the operations of the Checks area do. */
import { RULES } from '../../../core/checks/rules/all.ts'
import { asideKey, type Checks } from '../../checks/service.ts'
import type { CheckReport, checkOperations } from '../../../contract/checks.ts'
import type { HandlersOf } from '../http/handlers-of.ts'

export function checkHandlers(checks: Checks): HandlersOf<typeof checkOperations> {
  return {
    'GET /api/checks': () => report(checks),
    'POST /api/checks/run': async () => {
      await checks.run()
      return await report(checks)
    },
    'PUT /api/checks/aside': async ({ body: { rule, subject, reason } }) => {
      await checks.putAside(rule, subject, reason)
      return await report(checks)
    },
    'DELETE /api/checks/aside': async ({ query: { rule, subject } }) => {
      await checks.takeUp(rule, subject)
      return await report(checks)
    },
  }
}

async function report(checks: Checks): Promise<CheckReport> {
  const { findings, proven, runs, running, finishedAt, milliseconds } = checks.state
  const aside = await checks.setAside()
  return {
    findings: findings.map((one) => {
      const set = aside.get(asideKey(one.rule, one.subject))
      return { ...one, aside: set ? { reason: set.reason, at: set.at.toISOString() } : null }
    }),
    proven,
    failed: runs.flatMap(({ rule, failed }) => (failed === null ? [] : [{ rule, message: failed }])),
    rules: RULES.map(({ id, area, meaning, why }) => ({ id, area, meaning, why })),
    running,
    finishedAt: finishedAt?.toISOString() ?? null,
    milliseconds,
  }
}
