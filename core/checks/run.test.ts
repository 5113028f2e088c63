// What the runner makes of what rules return.
import { expect, it } from 'vitest'
import type { Facts } from './facts.ts'
import { witness, type Rule, type RuleFinding } from './rule.ts'
import { runRules } from './run.ts'

const finding = (subject: string, address: string | null, others: string[] = []): RuleFinding => ({
  ...{ subject, title: `${subject} at ${String(address)}`, detail: '', affects: 'now', cause: '' },
  ...{ witness: witness(address, 'seen'), place: null, others, fixes: [] },
})

const ruleWith = (...findings: RuleFinding[]): Rule => ({
  ...{ id: 'a-rule', area: 'templates', meaning: '', why: '' },
  run: () =>
    Promise.resolve({ findings, claim: { sentence: 'All is well', tested: 1, things: ['page', 'pages'] } }),
})

const run = (rule: Rule) => runRules([rule], {} as Facts, () => 0)

it('a subject is reported once, with the pages of its other findings', async () => {
  const { findings, proven } = await run(
    ruleWith(
      finding('line 3', '/a', ['/z']),
      finding('line 3', '/b', ['/z', '/c']),
      finding('line 9', null),
      finding('line 3', '/a'),
      finding('line 3', null),
    ),
  )
  expect(findings.map((one) => [one.rule, one.title, one.others])).toEqual([
    ['a-rule', 'line 3 at /a', ['/z', '/b', '/c']],
    ['a-rule', 'line 9 at null', []],
  ])
  expect(proven).toEqual([])
})

it('a rule that fails is reported as such, and claims nothing', async () => {
  const rule = { ...ruleWith(), run: () => Promise.reject(new Error('no such table')) }
  expect(await run(rule)).toMatchObject({
    ...{ findings: [], proven: [] },
    runs: [{ rule: 'a-rule', failed: 'no such table' }],
  })
})
