/** Finds slugs that break the rules, or that have a number although the slug without it is free. */
import { freeSlug, numbered, slugOf, slugProblem } from '../../slugs/slug.ts'
import type { SluggedItem } from '../facts.ts'
import { witness, type Rule } from '../rule.ts'

export const slugNotCanonical: Rule = {
  id: 'slug-not-canonical',
  area: 'content',
  meaning: 'A slug breaks the rules of the settings, or has a number although the slug without it is free.',
  why: 'The next save is refused, or the address has a meaningless “-2”.',
  async run(facts) {
    const rules = facts.definition.slugRules
    const { all, total } = await facts.slugged()
    const former = new Set((await facts.former()).map((one) => `${one.kind} ${one.slug}`))
    const taken = new Set(all.map((one) => `${one.kind} ${one.slug}`))
    const isTaken = (one: SluggedItem, slug: string) =>
      taken.has(`${one.kind} ${above(one)}${slug}`) ||
      former.has(`${one.kind} ${above(one)}${slug}`) ||
      rules.reserved.has(slug)
    const findings = []
    for (const one of all) {
      const slug = last(one)
      const problem = slugProblem(slug, rules)
      const plain = slugOf(one.title, rules.maximum)
      const number = Number(/-(\d+)$/.exec(slug)?.[1] ?? 0)
      const isNumbered =
        number > 1 && plain !== '' && slug === numbered(plain, number, rules.maximum) && !isTaken(one, plain)
      // A public address is not changed only to look better.
      if (!problem && (!isNumbered || one.isPublic)) continue
      const base = slugOf(slug, rules.maximum) || plain
      const wanted = isNumbered
        ? plain
        : base === ''
          ? ''
          : freeSlug(base, (to) => isTaken(one, to), rules.maximum)
      findings.push({
        subject: `${one.kind} ${one.slug}`,
        title: !problem
          ? `The slug of “${one.title}” has an unnecessary number`
          : `The slug of “${one.title}” breaks the rules`,
        detail: problem ? problem.message : `“${plain}” is free.`,
        affects: 'possibly' as const,
        witness: witness(
          one.path,
          `The ${one.kind} “${one.title}” has the slug “${slug}”`,
          slug,
          wanted === '' ? null : wanted,
        ),
        cause: problem
          ? 'It was created before the settings were changed, or imported together with them.'
          : 'Another row had the slug without the number when this one was created.',
        place: problem ? { document: 'blog.yaml', line: null } : null,
        others: [],
        fixes:
          wanted === ''
            ? []
            : [
                {
                  label: `Change its slug to “${wanted}”`,
                  steps: [
                    {
                      do: 'change-slug' as const,
                      kind: one.kind,
                      from: one.slug,
                      to: above(one) + wanted,
                    },
                  ],
                  after: one.isPublic
                    ? 'The former address redirects to the new one.'
                    : 'The former address was never public.',
                },
              ],
      })
    }
    return {
      findings,
      claim: {
        sentence: 'Every slug follows the rules',
        ofSample: 'Every slug tested follows the rules',
        tested: all.length,
        of: total,
        things: ['slug', 'slugs'],
        chosen: 'the oldest of each kind',
      },
    }
  },
}

const last = ({ slug }: SluggedItem) => slug.split('/').at(-1) ?? slug
/** Returns the path of the parent of a page, with a trailing slash. */
const above = ({ slug }: SluggedItem) => slug.slice(0, slug.lastIndexOf('/') + 1)
