/** Finds listings that show unpublished posts to readers, by looking for these posts in the listings. */
import { addCondition } from '../../blog/edit.ts'
import { queriesOf } from '../../shapes/route-data.ts'
import type { Facts, ListedAt, SluggedItem } from '../facts.ts'
import { counted, saveFix, witness, type Rule, type RuleFinding } from '../rule.ts'

/** How many unpublished posts are looked for. */
const CHECKED = 50

export const publishedWithoutDate: Rule = {
  id: 'published-without-date',
  area: 'content',
  meaning: 'A listing shows readers a post that is not published.',
  why: 'Readers see a draft before its author wants it, with an empty date.',
  async run(facts) {
    const { all } = await facts.slugged()
    const unpublished = all.filter((one) => one.kind === 'post' && !one.isPublic).slice(0, CHECKED)
    const open = unguarded(facts)
    const shown = new Map<string, { post: SluggedItem; at: ListedAt }[]>()
    // A query with the condition “published” cannot show one, so only the others are checked.
    if (open.size > 0)
      for (const post of unpublished)
        for (const at of await facts.listedAt(post.slug))
          if (open.has(at.query)) shown.set(at.query, [...(shown.get(at.query) ?? []), { post, at }])
    return {
      findings: [...shown].map(([query, found]) => describe(facts, query, found)),
      proven:
        unpublished.length > 0
          ? {
              sentence: 'No listing of a route shows the unpublished posts checked',
              count: counted(unpublished.length, 'post'),
            }
          : null,
    }
  },
}

/** Returns the queries for several posts that routes use and that do not have the condition “published”. */
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

function describe(
  facts: Facts,
  query: string,
  found: readonly { post: SluggedItem; at: ListedAt }[],
): RuleFinding {
  const [first] = found
  const document = `queries/${query}.yaml`
  const posts = new Set(found.map((one) => one.post.slug)).size
  const path = first?.at.path ?? ''
  const title = first?.post.title ?? ''
  return {
    subject: query,
    title: `A listing shows ${counted(posts, 'unpublished post')}`,
    detail: `${path} lists “${title}”. Query “${query}” does not have the condition “published”.`,
    affects: 'now',
    witness: witness(
      path,
      `“${title}” has no publication date, or one in the future`,
      `listed at position ${first?.at.position ?? 0}`,
      'not listed',
    ),
    cause: `Query “${query}” returns posts of any state.`,
    place: { document, line: null },
    others: [...new Set(found.slice(1).map((one) => one.at.path))],
    fixes: saveFix(
      document,
      addCondition(facts.documents.get(document) ?? '', 'published'),
      'Add “published” to the query',
      'Readers only see published posts. Authors see the others under Content.',
    ),
  }
}
