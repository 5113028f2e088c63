/** A slug that is not the one it should be: against the settings, or numbered although the plain one is free. */
import { freeSlug, numbered, slugFault, slugOf } from '../../slugs/slug.ts'
import type { Named } from '../facts.ts'
import { witness, type Rule } from '../rule.ts'

export const slugNotCanonical: Rule = {
  id: 'slug-not-canonical',
  area: 'content',
  meaning: 'A slug breaks the rules of the settings, or has a number although the plain one is free.',
  why: 'The next save is refused, or the address carries a “-2” that says nothing.',
  async run(facts) {
    const rules = facts.definition.slugRules
    const { all, total } = await facts.named()
    const former = new Set((await facts.former()).map((one) => `${one.kind} ${one.slug}`))
    const taken = new Set(all.map((one) => `${one.kind} ${one.slug}`))
    const isTaken = (one: Named, slug: string) =>
      taken.has(`${one.kind} ${above(one)}${slug}`) ||
      former.has(`${one.kind} ${above(one)}${slug}`) ||
      rules.reserved.has(slug)
    const findings = []
    for (const one of all) {
      const slug = last(one)
      const fault = slugFault(slug, rules)
      const plain = slugOf(one.title, rules.maximum)
      const number = Number(/-(\d+)$/.exec(slug)?.[1] ?? 0)
      const isNumbered =
        number > 1 && plain !== '' && slug === numbered(plain, number, rules.maximum) && !isTaken(one, plain)
      // An address that readers know is not changed for looks.
      if (fault === undefined && (!isNumbered || one.isPublic)) continue
      const base = slugOf(slug, rules.maximum) || plain
      const wanted = isNumbered
        ? plain
        : base === ''
          ? ''
          : freeSlug(base, (to) => isTaken(one, to), rules.maximum)
      findings.push({
        subject: `${one.kind} ${one.slug}`,
        title:
          fault === undefined
            ? `“${one.title}” has a number in its slug for nothing`
            : `The slug of “${one.title}” breaks the rules`,
        detail: fault === undefined ? `“${plain}” is free.` : `${fault}.`,
        affects: 'possibly' as const,
        witness: witness(one.path, `the ${one.kind} “${one.title}”`, slug, wanted === '' ? null : wanted),
        because:
          fault === undefined
            ? 'Another had the plain slug when this one was made, and has it no longer.'
            : 'It was made before the settings were changed, or came in with them.',
        place: fault === undefined ? null : { document: 'blog.yaml', line: null },
        also: [],
        mends:
          wanted === ''
            ? []
            : [
                {
                  label: `Give it the slug “${wanted}”`,
                  changes: [],
                  slug: { kind: one.kind, from: one.slug, to: above(one) + wanted },
                  after: one.isPublic
                    ? 'The old address leads to the new one.'
                    : 'Nobody has seen the old one.',
                },
              ],
      })
    }
    const counted = total > all.length ? `${all.length} of ${total} slugs` : `${all.length} slugs`
    return {
      findings,
      proven: all.length > 0 ? { sentence: 'Every slug follows the rules', count: counted } : null,
    }
  },
}

const last = ({ slug }: Named) => slug.split('/').at(-1) ?? slug
/** Of a page: the path of what it is below, with its “/”. */
const above = ({ slug }: Named) => slug.slice(0, slug.lastIndexOf('/') + 1)
