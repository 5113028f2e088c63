/** Finds published posts and pages with the same title. */
import { groupBy } from '../group-by.ts'
import { witness, type Rule } from '../rule.ts'

export const titleDuplicate: Rule = {
  id: 'title-duplicate',
  area: 'content',
  meaning: 'Two published posts, or two pages, have the same title.',
  why: 'Readers cannot tell them apart in lists and in search results.',
  async run(facts) {
    const { all, total } = await facts.slugged()
    const shown = all.filter((one) => one.isPublic && (one.kind === 'post' || one.kind === 'page'))
    const same = groupBy(shown, (one) => `${one.kind} ${one.title.trim().toLowerCase()}`)
    return {
      findings: [...same].flatMap(([subject, [first, second, ...more]]) =>
        first && second
          ? [
              {
                subject,
                title: `“${first.title}” is the title of ${2 + more.length} ${first.kind}s`,
                detail: [first, second, ...more].map((one) => one.path ?? one.slug).join(', '),
                affects: 'now' as const,
                witness: witness(first.path, `${second.path ?? second.slug} has the same title`),
                cause: 'One may be a copy of the other.',
                place: null,
                others: [second, ...more].flatMap((one) => one.path ?? []),
                fixes: [],
              },
            ]
          : [],
      ),
      // Beyond the limit of rows, there may be another one.
      claim:
        all.length < total
          ? null
          : {
              sentence: 'No two posts or pages have the same title',
              tested: shown.length,
              things: ['title', 'titles'],
            },
    }
  },
}
