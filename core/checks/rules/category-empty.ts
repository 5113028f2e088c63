/** Finds categories without published posts. */
import type { CategoryUse } from '../facts.ts'
import { counted, witness, type Rule } from '../rule.ts'

export const categoryEmpty: Rule = {
  id: 'category-empty',
  area: 'content',
  meaning: 'A category has no published post.',
  why: 'Navigation and lists offer it to readers, who then find nothing.',
  async run(facts) {
    const categories = await facts.categories()
    const findings = []
    for (const one of categories.filter((category) => category.published === 0)) {
      const { name, slug, version, scheduled, drafts } = one
      const [path = null] = one.paths
      const status = path === null ? null : (await facts.request(path)).status
      const isWaiting = scheduled + drafts > 0
      findings.push({
        subject: slug,
        title: `Category “${name}” has no published posts`,
        detail: path === null ? 'No route shows it.' : `${path} answers ${status ?? ''} without any posts.`,
        affects: status === 200 ? ('now' as const) : ('possibly' as const),
        witness: witness(path, `“${name}” has ${describe(one)}`, '0 published', 'at least 1'),
        cause: isWaiting
          ? 'Its posts are not published yet.'
          : 'No post has this category, or all of them were moved to others.',
        place: null,
        others: [],
        fixes: isWaiting
          ? []
          : [
              {
                label: `Delete “${name}”`,
                steps: [{ do: 'delete-term' as const, kind: 'category' as const, slug, version }],
                after: `Category “${name}” is deleted. It can be restored for 30 days.`,
              },
            ],
      })
    }
    return {
      findings,
      claim: {
        sentence: 'Every category has a published post',
        tested: categories.length,
        things: ['category', 'categories'],
      },
    }
  },
}

function describe({ published, scheduled, drafts }: CategoryUse): string {
  return [
    counted(published, 'published post'),
    ...(scheduled > 0 ? [counted(scheduled, 'scheduled post')] : []),
    ...(drafts > 0 ? [counted(drafts, 'draft')] : []),
  ].join(', ')
}
