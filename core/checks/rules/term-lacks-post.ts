/** Finds posts that link to a category, a tag or an author whose list does not have them. */
import { crawl } from '../crawl.ts'
import type { Facts, KnownAddress } from '../facts.ts'
import { pagedPosts } from '../further-pages.ts'
import { groupBy } from '../group-by.ts'
import { pathOf, withoutQuery } from '../page/addresses.ts'
import { counted, isOfPost, routeOf, witness, type Rule } from '../rule.ts'
import { queryPath } from '../../shapes/documents.ts'

interface Missing {
  post: KnownAddress
  term: KnownAddress
}

export const termLacksPost: Rule = {
  id: 'term-lacks-post',
  area: 'queries',
  meaning: 'A post links to its category, tag or author, and the list there does not have the post.',
  why: 'A condition of the list, or the link, is wrong. Readers who follow the link do not find what they came from.',
  async run(facts) {
    const { pages, isComplete } = await crawl(facts)
    if (!isComplete) return { findings: [], claim: null }
    const { known } = await facts.addresses()
    const posts = known.filter((one) => isOfPost(facts, one.route))
    const terms = new Map(
      known.filter((one) => one.title !== null && listOf(facts, one.route)).map((one) => [one.path, one]),
    )
    const linked = linksByPath(pages)
    const crawled = posts.filter((one) => linked.has(one.path))
    const times = new Map<string, number>()
    for (const { path } of crawled)
      for (const target of linked.get(path) ?? []) times.set(target, (times.get(target) ?? 0) + 1)
    const missing: Missing[] = []
    let tested = 0
    for (const post of crawled)
      for (const target of linked.get(post.path) ?? []) {
        const term = terms.get(target)
        // A menu or an aside has the same links on every page.
        if (!term || times.get(target) === crawled.length) continue
        tested++
        if (linked.has(term.path) && linked.get(term.path)?.has(post.path) !== true)
          missing.push({ post, term })
      }
    return {
      findings: [...groupBy(missing, (one) => one.term.route)].flatMap(([route, [first, ...others]]) => {
        if (!first) return []
        const { post, term } = first
        const query = listOf(facts, route)?.query ?? ''
        return [
          {
            subject: route,
            title: `${post.path} links to ${term.path}, which does not list it`,
            detail: `“${post.title ?? ''}” is on no page of the list.${others.length === 0 ? '' : ` ${counted(others.length, 'more post')} ${others.length === 1 ? 'is' : 'are'} missing in lists of route “${route}”.`}`,
            affects: 'now' as const,
            witness: witness(
              term.path,
              `${post.path} links here, and the list has no link to it`,
              'not listed',
              `“${post.title ?? ''}”`,
            ),
            cause: `The conditions of ${queryPath(query)} are wrong, or the link is.`,
            place: { document: queryPath(query), line: null },
            others: others.map((one) => one.post.path),
            fixes: [],
          },
        ]
      }),
      claim: {
        sentence: 'Every post is in the lists of the categories, tags and authors that it links to',
        tested,
        things: ['link', 'links'],
      },
    }
  },
}

/** Returns the paged list of posts of a route with one parameter. */
function listOf(facts: Facts, name: string) {
  const compiled = routeOf(facts, name)
  return compiled?.pattern.names.length === 1 && !isOfPost(facts, name)
    ? pagedPosts(facts, compiled)
    : undefined
}

/** Returns the paths that pages link to, those of all pages of a listing together. */
function linksByPath(pages: Awaited<ReturnType<typeof crawl>>['pages']): Map<string, Set<string>> {
  const linked = new Map<string, Set<string>>()
  for (const { path, status, links } of pages) {
    if (status !== 200) continue
    const bare = withoutQuery(path)
    const own = linked.get(bare) ?? new Set()
    linked.set(bare, own)
    for (const { href } of links) {
      const target = pathOf(href, path)
      if (target !== undefined && target !== bare) own.add(target)
    }
  }
  return linked
}
