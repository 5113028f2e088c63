/** A post without a publication date that a listing shows to readers. Found by asking for its place, not by reading. */
import { addCondition } from '../../blog/edit.ts'
import { queriesOf } from '../../shapes/route-data.ts'
import type { Facts, ListedAt, Named } from '../facts.ts'
import { witness, type Rule } from '../rule.ts'

/** Posts without a date that are looked for. */
const LOOKED_FOR = 50

export const publishedWithoutDate: Rule = {
  id: 'published-without-date',
  area: 'content',
  meaning: 'A listing shows readers a post that has no publication date.',
  why: 'A draft is read before its author wants it, with an empty date beside it.',
  async run(facts) {
    const { all } = await facts.named()
    const undated = all.filter((one) => one.kind === 'post' && !one.isPublic)
    const open = unguarded(facts)
    const shown = new Map<string, { post: Named; at: ListedAt }[]>()
    // A query that names “published” cannot show one: only others are asked.
    if (open.size > 0)
      for (const post of undated.slice(0, LOOKED_FOR))
        for (const at of await facts.listedAt(post.slug))
          if (open.has(at.query)) shown.set(at.query, [...(shown.get(at.query) ?? []), { post, at }])
    return {
      findings: [...shown].map(([query, found]) => finding(facts, query, found)),
      proven:
        undated.length > 0
          ? {
              sentence: 'No listing shows a post before it is published',
              count: `${undated.length} posts`,
            }
          : null,
    }
  },
}

/** Queries of several posts that routes use and that do not ask for published ones. */
function unguarded({ definition }: Facts): Set<string> {
  const used = new Set(definition.routes.flatMap((one) => queriesOf(one.route)))
  return new Set(
    [...definition.queries]
      .filter(
        ([name, meaning]) =>
          used.has(name) &&
          meaning.from === 'posts' &&
          meaning.take.kind !== 'one' &&
          !meaning.named.includes('published'),
      )
      .map(([name]) => name),
  )
}

function finding(facts: Facts, query: string, found: readonly { post: Named; at: ListedAt }[]) {
  const [first] = found
  const document = `queries/${query}.yaml`
  const mended = addCondition(facts.documents.get(document) ?? '', 'published')
  const posts = new Set(found.map((one) => one.post.slug)).size
  return {
    subject: query,
    title: `A listing shows ${posts === 1 ? 'a post' : `${posts} posts`} that ${posts === 1 ? 'is' : 'are'} not published`,
    detail: `${first?.at.path ?? ''} lists “${first?.post.title ?? ''}”; query “${query}” lacks “published”.`,
    affects: 'now' as const,
    witness: witness(
      first?.at.path ?? null,
      `“${first?.post.title ?? ''}” has no publication date, or one in the future`,
      `listed, number ${first?.at.place ?? 0}`,
      'not listed',
    ),
    because: `Query “${query}” takes posts of any state.`,
    place: { document, line: null },
    also: [...new Set(found.slice(1).map((one) => one.at.path))],
    mends:
      mended === undefined
        ? []
        : [
            {
              label: 'Add “published” to the query',
              changes: [{ document, text: mended }],
              slug: null,
              after: 'Readers see published posts only; the author sees the others under Content.',
            },
          ],
  }
}
