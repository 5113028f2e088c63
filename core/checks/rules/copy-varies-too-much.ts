/** Finds copies that are all equal, and are nevertheless kept one by one. */
import { namedRule, placeOfCopies, subjectOf } from '../copies.ts'
import { counted, witness, type Rule } from '../rule.ts'

/** With fewer copies, they may be equal by chance. */
const ENOUGH = 3

export const copyVariesTooMuch: Rule = {
  id: 'copy-varies-too-much',
  area: 'cache',
  meaning: 'All copies of a page or a fragment are equal, but one is kept for each value of something.',
  why: 'Each is rendered once more, and takes room from others, for nothing.',
  async run(facts) {
    const all = await facts.copies()
    const rules = all.filter((one) => one.copies >= ENOUGH)
    return {
      findings: rules.flatMap((rule) => {
        if (!rule.allEqual) return []
        const [first, second] = rule.allEqual
        return [
          {
            subject: subjectOf(rule),
            title: `All copies of ${namedRule(rule)} are equal`,
            detail: `${counted(rule.copies, 'copy', 'copies')} were rendered, and all have the same text.`,
            affects: 'now' as const,
            witness: witness(
              first,
              `${first} and ${second} have a copy each, with the same text`,
              counted(rule.copies, 'copy', 'copies'),
              '1 copy',
            ),
            cause:
              rule.kind === 'fragment'
                ? 'Its tag has a “vary”, or its body reads something that it does not show.'
                : 'Its address has a parameter that the page does not show.',
            place: placeOfCopies(rule),
            others: [],
            fixes: [],
          },
        ]
      }),
      claim: {
        sentence: 'Of the copies that were rendered, those with different keys differ',
        ofSample: 'Of the copies that were rendered, those with different keys differ',
        tested: rules.length,
        of: all.length,
        things: ['kind of copy', 'kinds of copies'],
        chosen: `those with ${ENOUGH} copies or more`,
      },
    }
  },
}
