/** Finds copies that are stored again and again, and never answer. */
import { namedRule, placeOfCopies, subjectOf } from '../copies.ts'
import { counted, witness, type Rule } from '../rule.ts'

/** With fewer copies in an hour, nobody may have asked twice. */
const ENOUGH = 50

export const copyNeverUsed: Rule = {
  id: 'copy-never-used',
  area: 'cache',
  meaning: 'Copies are stored again and again, and none of them is ever used.',
  why: 'They cost time and room, and save nothing.',
  async run(facts) {
    const rules = await facts.copies()
    const asked = rules.filter((one) => one.stored >= ENOUGH)
    return {
      findings: asked
        .filter((one) => one.answered === 0)
        .map((rule) => ({
          subject: subjectOf(rule),
          title: `No copy of ${namedRule(rule)} was used`,
          detail: `${counted(rule.stored, 'copy', 'copies')} were stored in the last hour.`,
          affects: 'now' as const,
          witness: witness(
            rule.address,
            'Counted in the last hour',
            `${counted(rule.stored, 'copy', 'copies')} stored, none used`,
            'some of them used',
          ),
          cause: 'Its key has something that differs each time, or it changes before it is asked for again.',
          place: placeOfCopies(rule),
          others: [],
          fixes: [],
        })),
      claim:
        asked.length === 0
          ? null
          : {
              sentence: 'Copies that are stored often are used',
              tested: asked.length,
              things: ['kind of copy', 'kinds of copies'],
            },
    }
  },
}
