/** Describes pages that show something of unpublished posts, one finding for each query that returns it. */
import { addCondition } from '../blog/edit.ts'
import { queryPath } from '../shapes/documents.ts'
import type { Facts, Leak, LeakingQuery } from './facts.ts'
import { counted, saveFix, witness, type RuleFinding } from './rule.ts'

/** How unpublished posts are chosen, as a phrase. */
export const CHOSEN_POSTS = 'the newest and the oldest draft and scheduled post'

interface QueryLeak {
  leak: Leak
  of: LeakingQuery
}

/**
 * Groups leaks by the query that causes them. If a query for one post returns an unpublished one, the other queries of
 * that page follow from it.
 * @param kind of the queries: for one post, or all others
 */
export async function leaksByQuery(facts: Facts, kind: 'one' | 'several'): Promise<Map<string, QueryLeak[]>> {
  const { found } = await facts.leaks()
  const isForOne = ({ query }: LeakingQuery) => {
    const meaning = facts.definition.queries.get(query)
    return meaning?.from === 'posts' && meaning.take.kind === 'one'
  }
  const groups = new Map<string, QueryLeak[]>()
  for (const leak of found) {
    const causes = leak.queries.filter(isForOne)
    const wanted = kind === 'one' ? causes.slice(0, 1) : causes.length > 0 ? [] : leak.queries
    for (const of of wanted) groups.set(of.query, [...(groups.get(of.query) ?? []), { leak, of }])
  }
  return groups
}

/** The named condition that keeps unpublished posts out, by the source of a query. */
const CONDITION: Readonly<Record<string, string>> = { posts: 'published', comments: 'shown' }

export function describeLeak(
  facts: Facts,
  query: string,
  leaks: readonly QueryLeak[],
  { title }: { title: (addresses: number) => string },
): RuleFinding {
  const document = queryPath(query)
  const from = facts.definition.queries.get(query)?.from ?? 'posts'
  const condition = CONDITION[from]
  // A page that would not be there at all is the better witness.
  const first = leaks.find((one) => one.leak.status !== one.leak.statusWithout) ?? leaks[0]
  const paths = [...new Set(leaks.map((one) => one.leak.path))]
  const path = first?.leak.path ?? ''
  const others = paths.filter((one) => one !== path)
  const { leak, of } = first ?? {}
  const isJson = leak?.accepts === 'json'
  // The whole page answers or does not.
  const isOne = leak !== undefined && leak.status !== leak.statusWithout
  return {
    subject: query,
    title: title(paths.length),
    detail: `${path}${isJson ? ', requested as JSON,' : ''} ${of?.difference ?? ''}`,
    affects: 'now',
    witness: witness(
      path,
      `${isJson ? 'As JSON, it' : 'It'} ${of?.difference ?? ''}`,
      isOne ? String(leak.status) : 'shown',
      isOne ? String(leak.statusWithout) : 'not shown',
    ),
    cause:
      condition === undefined
        ? `Query “${query}” returns something of posts of any state.`
        : `Query “${query}” does not have the condition “${condition}”.`,
    place: { document, line: null },
    others,
    fixes:
      condition === undefined
        ? []
        : saveFix(
            document,
            addCondition(facts.documents.get(document) ?? '', condition),
            `Add “${condition}” to the query`,
            isOne
              ? `${counted(paths.length, 'address answers', 'addresses answer')} 404. Published posts are not affected, and authors still see the others.`
              : 'Readers only see published posts. Authors see the others under Content.',
          ),
  }
}
