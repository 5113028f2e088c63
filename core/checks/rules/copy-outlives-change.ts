/** Finds copies that go on showing what was before an edit. */
import { spanText } from '../../shapes/span-text.ts'
import { namedRule, placeOfCopies, refreshFix, subjectOf } from '../copies.ts'
import { witness, type Rule, type RuleFinding } from '../rule.ts'

export const copyOutlivesChange: Rule = {
  id: 'copy-outlives-change',
  area: 'cache',
  meaning: 'After an edit, readers go on seeing what was before, until a copy is old enough.',
  why: 'Readers see old titles and links that lead nowhere, and also what was unpublished or deleted.',
  async run(facts) {
    const rules = await facts.copies()
    const aged = rules.filter((one) => one.refresh === 'by-age')
    const findings: RuleFinding[] = []
    for (const rule of aged) {
      const outlived = await facts.outlived(rule)
      if (!outlived) continue
      const { edit, address, before, after, longest } = outlived
      findings.push({
        subject: subjectOf(rule),
        title: `Readers see the old text of ${namedRule(rule)} for up to ${spanText(longest)}`,
        detail: `If ${edit}, ${address} goes on showing “${before}” instead of “${after}”.`,
        affects: 'possibly',
        witness: witness(address, `This was rehearsed: ${edit}`, before, after),
        cause: 'cache.yaml has “refresh: by-age”, so a change does not refresh the copies.',
        place: placeOfCopies(rule),
        others: [],
        fixes: refreshFix(
          facts,
          rule,
          'both',
          'Refresh on change',
          'Every change of what is shown refreshes the copies.',
        ),
      })
    }
    return {
      findings,
      // The edits that were rehearsed may not be those that a copy outlives.
      claim:
        aged.length > 0
          ? null
          : {
              sentence: 'Every copy is refreshed when something that it shows changes',
              tested: rules.length,
              things: ['kind of copy', 'kinds of copies'],
            },
    }
  },
}
