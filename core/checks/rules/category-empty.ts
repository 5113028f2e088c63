/** A category in which there is nothing to read. */
import type { CategoryUse } from '../facts.ts'
import { witness, type Rule } from '../rule.ts'

export const categoryEmpty: Rule = {
  id: 'category-empty',
  area: 'content',
  meaning: 'A category has no published post.',
  why: 'It is offered to readers in navigation and lists, and leads to nothing.',
  async run(facts) {
    const categories = await facts.categories()
    const findings = []
    for (const one of categories.filter((category) => category.published === 0)) {
      const [path = null] = one.paths
      const status = path === null ? null : (await facts.ask(path)).status
      const waiting = one.scheduled + one.drafts
      findings.push({
        subject: one.slug,
        title: `“${one.name}” has nothing to read`,
        detail: path === null ? 'No route lists it.' : `${path} answers ${status ?? ''}, without a post.`,
        affects: status === 200 ? ('now' as const) : ('possibly' as const),
        witness: witness(path, `category “${one.name}” has ${inWords(one)}`, '0 published', 'at least one'),
        because:
          waiting > 0
            ? 'What belongs to it is not published yet.'
            : 'No post was ever given it, or each was given another.',
        place: null,
        also: [],
        mends:
          waiting > 0
            ? []
            : [
                {
                  label: `Delete “${one.name}”`,
                  changes: [],
                  slug: null,
                  remove: { kind: 'category' as const, slug: one.slug, version: one.version },
                  after: `“${one.name}” is offered no longer.`,
                },
              ],
      })
    }
    return {
      findings,
      proven:
        categories.length > 0
          ? { sentence: 'Every category has something to read', count: `${categories.length} categories` }
          : null,
    }
  },
}

function inWords({ published, scheduled, drafts }: CategoryUse): string {
  const parts = [
    `${published} published posts`,
    ...(scheduled > 0 ? [`${scheduled} scheduled`] : []),
    ...(drafts > 0 ? [`${drafts} draft${drafts === 1 ? '' : 's'}`] : []),
  ]
  return parts.join(', ')
}
