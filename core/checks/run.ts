/** Runs rules one after the other. */
import type { ChangeStep } from '../shapes/changes.ts'
import type { Facts } from './facts.ts'
import type { Finding, Fix, Proven } from './finding.ts'
import { groupBy } from './group-by.ts'
import type { Claim, Rule, RuleFinding } from './rule.ts'

export interface RuleRun {
  rule: string
  milliseconds: number
  /** Why the rule itself failed. Then nothing is known about what it looks for. */
  failed: string | null
}

export interface CheckResult {
  findings: Finding[]
  proven: Proven[]
  runs: RuleRun[]
}

/**
 * Runs all rules.
 * @param clock returns milliseconds
 * @param progress called after each rule
 * @throws the signal's reason if it is aborted
 */
export async function runRules<F extends Facts>(
  rules: readonly Rule<F>[],
  facts: F,
  clock: () => number,
  { signal, progress }: { signal?: AbortSignal; progress?: (done: number) => void } = {},
): Promise<CheckResult> {
  const result: CheckResult = { findings: [], proven: [], runs: [] }
  for (const [index, rule] of rules.entries()) {
    signal?.throwIfAborted()
    const start = clock()
    let failed: string | null = null
    try {
      const { findings, claim } = await rule.run(facts)
      for (const one of oneOfEach(findings))
        result.findings.push({ rule: rule.id, ...one, fixes: await withBasis(facts, one.fixes) })
      if (claim && claim.tested > 0 && findings.length === 0)
        result.proven.push({ rule: rule.id, ...provenBy(claim) })
    } catch (error) {
      signal?.throwIfAborted()
      failed = error instanceof Error ? error.message : String(error)
    }
    result.runs.push({ rule: rule.id, milliseconds: clock() - start, failed })
    progress?.(index + 1)
  }
  result.findings.sort((a, b) => Number(a.affects === 'possibly') - Number(b.affects === 'possibly'))
  return result
}

/** Keeps the first finding of each subject, which then names the pages of the others. */
function oneOfEach(findings: readonly RuleFinding[]): RuleFinding[] {
  return [...groupBy(findings, (one) => one.subject).values()].flatMap(([first, ...same]) => {
    if (!first) return []
    const { address } = first.witness
    const pages = same.flatMap((one) => [one.witness.address ?? [], one.others].flat())
    const others = [...new Set([...first.others, ...pages])].filter((one) => one !== address)
    return [{ ...first, others }]
  })
}

/** Returns what a rule may claim: about everything only if it has tested everything. */
export function provenBy(claim: Claim): Omit<Proven, 'rule'> {
  const { sentence, tested, things } = claim
  const [one, many] = things
  const figure = (count: number) => count.toLocaleString('en-GB')
  if (claim.of === undefined || claim.of <= tested)
    return { sentence, count: `${figure(tested)} ${tested === 1 ? one : many}`, sample: null }
  return {
    sentence: claim.ofSample,
    count: `${figure(tested)} of ${figure(claim.of)} ${many}`,
    sample: claim.chosen,
  }
}

/** Adds the text that each fix is based on, so that it never overwrites what was saved since. */
const withBasis = (facts: Facts, fixes: readonly Fix[]): Promise<Fix[]> =>
  Promise.all(
    fixes.map(async (fix) => ({
      ...fix,
      steps: await Promise.all(
        fix.steps.map(async (step): Promise<ChangeStep> =>
          step.do === 'save-document' || step.do === 'delete-document'
            ? { ...step, basis: (await facts.document(step.document)) ?? '' }
            : step,
        ),
      ),
    })),
  )
