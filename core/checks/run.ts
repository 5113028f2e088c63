/** Runs rules over facts, one after the other, and says how it went. */
import type { Facts } from './facts.ts'
import type { Finding, Mend, Proven } from './finding.ts'
import type { Rule } from './rule.ts'

export interface RuleRun {
  rule: string
  milliseconds: number
  /** Why the rule itself failed: then nothing is known about what it looks for. */
  failed: string | null
}

export interface CheckResult {
  findings: Finding[]
  proven: Proven[]
  runs: RuleRun[]
}

/**
 * @param clock milliseconds
 * @param progress told after each rule
 * @throws the signal's reason when it is aborted
 */
export async function runRules(
  rules: readonly Rule[],
  facts: Facts,
  clock: () => number,
  { signal, progress }: { signal?: AbortSignal; progress?: (done: number) => void } = {},
): Promise<CheckResult> {
  const result: CheckResult = { findings: [], proven: [], runs: [] }
  for (const [index, rule] of rules.entries()) {
    signal?.throwIfAborted()
    const began = clock()
    let failed: string | null = null
    try {
      const { findings, proven } = await rule.run(facts)
      for (const one of findings)
        result.findings.push({ rule: rule.id, ...one, mends: await withTexts(facts, one.mends) })
      if (proven && findings.length === 0) result.proven.push({ rule: rule.id, ...proven })
    } catch (error) {
      signal?.throwIfAborted()
      failed = error instanceof Error ? error.message : String(error)
    }
    result.runs.push({ rule: rule.id, milliseconds: clock() - began, failed })
    progress?.(index + 1)
  }
  result.findings.sort((a, b) => Number(a.affects === 'possibly') - Number(b.affects === 'possibly'))
  return result
}

/** Notes what each mend was made from: on another text, it would go over what somebody has saved since. */
const withTexts = (facts: Facts, mends: readonly Mend[]): Promise<Mend[]> =>
  Promise.all(
    mends.map(async (mend) => ({
      ...mend,
      changes: await Promise.all(
        mend.changes.map(async (change) => {
          const before = await facts.document(change.document)
          return before === undefined ? change : { ...change, before }
        }),
      ),
    })),
  )
