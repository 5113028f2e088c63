/** Finds pages that are kept for any value that a reader makes up. */
import { namedRule, placeOfCopies, refreshFix, subjectOf } from '../copies.ts'
import { witness, type Rule } from '../rule.ts'

export const keyGrowsWithoutBound: Rule = {
  id: 'key-grows-without-bound',
  area: 'cache',
  meaning: 'A page is kept for any value of a parameter, also for values that nobody links to.',
  why: 'A program that makes up values fills the cache with pages that nobody asks for again, and wanted copies are evicted.',
  async run(facts) {
    const rules = (await facts.copies()).filter((one) => one.kind === 'page')
    return {
      findings: rules.flatMap((rule) => {
        if (!rule.madeUp) return []
        const { address, parameter } = rule.madeUp
        const isRuled = Object.hasOwn(facts.definition.cache.pages ?? {}, rule.name)
        return [
          {
            subject: subjectOf(rule),
            title: `The number of copies of ${namedRule(rule)} has no limit`,
            detail: `One is kept for each value of “${parameter}”, whatever a reader types.`,
            affects: 'possibly' as const,
            witness: witness(
              address,
              'The value is what a reader has typed, and the answer is kept',
              '200, kept',
              '404, or not kept',
            ),
            cause: isRuled
              ? 'cache.yaml has a rule for this route, so its pages are kept although a reader can type anything.'
              : `A query finds rows for values of “${parameter}” that nobody links to.`,
            place: placeOfCopies(rule),
            others: [],
            fixes: isRuled
              ? refreshFix(facts, rule, 'both', 'Remove the rule', 'Pages with a typed text are not kept.')
              : [],
          },
        ]
      }),
      claim: {
        sentence: 'No page is kept for a value that was made up',
        ofSample: 'No page is kept for a value that was made up',
        tested: rules.filter((one) => one.address !== null).length,
        of: rules.length,
        things: ['route with pages', 'routes with pages'],
        chosen: 'those with an address',
      },
    }
  },
}
