/** Finds tags and authors without published posts. */
import { witness, type Rule } from '../rule.ts'
import { sampleOf, type SampleSize } from '../sample.ts'

/** Each page is requested. */
const TRIED: SampleSize = { oldest: 50, newest: 150, between: 100 }

export const termEmpty: Rule = {
  id: 'term-empty',
  area: 'content',
  meaning: 'The page of a tag or an author shows no post.',
  why: 'Readers and search engines find a page with nothing on it.',
  async run(facts) {
    const { all } = await facts.slugged()
    const terms = all.filter((one) => (one.kind === 'tag' || one.kind === 'author') && one.path !== null)
    const tried = sampleOf(terms, TRIED)
    const findings = []
    for (const { kind, slug, title, path } of tried) {
      const runs = await facts.queriesAt(path ?? '/')
      const lists = runs.filter(({ query }) => {
        const meaning = facts.definition.queries.get(query)
        return meaning?.from === 'posts' && meaning.take.kind !== 'one' && meaning.parameters.length > 0
      })
      if (lists.length === 0 || lists.some((one) => one.rows > 0)) continue
      findings.push({
        subject: `${kind} ${slug}`,
        title: `${kind === 'tag' ? 'Tag' : 'Author'} “${title}” has no published posts`,
        detail: `${path ?? ''} shows no post.`,
        affects: 'now' as const,
        witness: witness(path, `${path ?? ''} shows no post`, '0 posts', 'at least 1'),
        cause: `No published post has this ${kind}.`,
        place: null,
        others: [],
        fixes: [],
      })
    }
    return {
      findings,
      claim: {
        sentence: 'Every tag and author has a published post',
        ofSample: 'The tags and authors that were tried have a published post',
        tested: tried.length,
        of: terms.length,
        things: ['page', 'pages'],
        chosen: 'the newest, the oldest, and some between',
      },
    }
  },
}
