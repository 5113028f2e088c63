/** Finds texts that depend on the time, such as “3 hours ago”, in copies that only their own age refreshes. */
import { spanText } from '../../shapes/span-text.ts'
import { namedRule, placeOfCopies, refreshFix, subjectOf } from '../copies.ts'
import { witness, type Rule } from '../rule.ts'

export const ageTextInKeptPart: Rule = {
  id: 'age-text-in-kept-part',
  area: 'cache',
  meaning: 'A copy that is refreshed by age only prints an age, or a date of today.',
  why: 'The text is wrong for a part of the time, and nothing corrects it.',
  async run(facts) {
    const all = await facts.copies()
    const rules = all.filter((one) => one.refresh === 'by-age')
    return {
      findings: rules.flatMap((rule) => {
        const { wrongAfter, lifetime, address } = rule
        if (wrongAfter === null || wrongAfter >= lifetime) return []
        return [
          {
            subject: subjectOf(rule),
            title: `A text in ${namedRule(rule)} is wrong for up to ${spanText(lifetime - wrongAfter)}`,
            detail: `It depends on the time, and is right for ${spanText(wrongAfter)}. The copy is used for ${spanText(lifetime)}.`,
            affects: 'now' as const,
            witness: witness(
              address,
              'Rendered now',
              `right for ${spanText(wrongAfter)}`,
              `right for ${spanText(lifetime)}`,
            ),
            cause: 'A template prints an age or reads the time, and cache.yaml has “refresh: by-age”.',
            place: placeOfCopies(rule),
            others: [],
            fixes: refreshFix(
              facts,
              rule,
              'both',
              'Refresh on change',
              'The copy is used until another text would be printed.',
            ),
          },
        ]
      }),
      claim: {
        sentence: 'Every printed age is right',
        ofSample: 'Every age printed in the copies that could be rendered is right',
        tested: all.filter((one) => !rules.includes(one) || one.copies > 0).length,
        of: all.length,
        things: ['kind of copy', 'kinds of copies'],
        chosen: 'those that some page shows',
      },
    }
  },
}
