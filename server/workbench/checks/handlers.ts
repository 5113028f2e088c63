/** Handlers of the Checks area. */
import type { CheckReport, checkOperations } from '../../../contract/checks.ts'
import type { Finding } from '../../../core/checks/finding.ts'
import { BROWSER_RULES, RULES } from '../../../core/checks/rules/all.ts'
import { refused, success, unknown } from '../../../core/shapes/outcome.ts'
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
  'POST /api/checks/browser': async () => {
    const { program } = checks.browser
    if (program === undefined) return refused({ file: 'checks', ...WORKBENCH_PROBLEMS['browser-missing']() })
    checks.browser.start(program)
    return success(await report(checks))
  },
  'DELETE /api/checks/browser': async () => {
    await checks.browser.cancel()
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
  const { browser } = checks
  const seen = browser.state
  const dismissed = await checks.dismissed()
  const shown = (isOutdated: boolean) => (one: Finding) => {
    const known = dismissed.get(findingKey(one.rule, one.subject))
    const { fixes, ...finding } = one
    return {
      ...finding,
      hasFixes: fixes.length > 0,
      dismissed: known ? { reason: known.reason, at: known.at.toISOString() } : null,
      isOutdated,
    }
  }
  return {
    findings: [...findings.map(shown(false)), ...seen.findings.map(shown(seen.isOutdated))],
    // What was true before a change may not be true now.
    proven: [...proven, ...(seen.isOutdated ? [] : seen.proven)],
    failed: [...runs, ...seen.runs].flatMap(({ rule, failed }) =>
      failed === null ? [] : [{ rule, message: failed }],
    ),
    rules: [...RULES, ...BROWSER_RULES].map(({ id, area, meaning, why }) => ({ id, area, meaning, why })),
    running,
    finishedAt: finishedAt?.toISOString() ?? null,
    milliseconds,
    browser: {
      isInstalled: browser.program !== undefined,
      running: seen.running,
      finishedAt: seen.finishedAt?.toISOString() ?? null,
      milliseconds: seen.milliseconds,
      isOutdated: seen.isOutdated,
      failed: seen.failed,
    },
  }
}
