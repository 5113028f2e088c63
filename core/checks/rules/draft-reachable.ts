/** Finds unpublished posts that readers can open by their addresses, by requesting these addresses. */
import { addCondition } from '../../blog/edit.ts'
import { queriesOf } from '../../shapes/route-data.ts'
import type { Facts, KnownAddress } from '../facts.ts'
import { counted, placeOfRoute, routeOf, saveFix, witness, type Rule, type RuleFinding } from '../rule.ts'

export const draftReachable: Rule = {
  id: 'draft-reachable',
  area: 'queries',
  meaning: 'Readers can open a draft or a scheduled post by its address.',
  why: 'Hiding a post from listings is not enough: anyone who guesses or remembers the address can read it.',
  async run(facts) {
    const hidden = await facts.hidden()
    const open = new Map<string, KnownAddress[]>()
    for (const address of hidden) {
      const { status } = await facts.request(address.path)
      if (status !== 200) continue
      open.set(address.route, [...(open.get(address.route) ?? []), address])
    }
    return {
      findings: [...open].map(([route, addresses]) => describe(facts, route, addresses)),
      proven:
        hidden.length > 0
          ? {
              sentence: 'No draft or scheduled post answers at its address',
              count: counted(hidden.length, 'address', 'addresses'),
            }
          : null,
    }
  },
}

function describe(facts: Facts, route: string, addresses: readonly KnownAddress[]): RuleFinding {
  const [first, ...others] = addresses
  const compiled = routeOf(facts, route)
  const query = queriesOf(compiled?.route ?? {}).find((name) => {
    const meaning = facts.definition.queries.get(name)
    return meaning?.from === 'posts' && meaning.take.kind === 'one' && !meaning.named.includes('published')
  })
  const document = query === undefined ? undefined : `queries/${query}.yaml`
  const count = addresses.length
  const address = first?.path ?? ''
  return {
    subject: route,
    title:
      count === 1
        ? 'Readers can open an unpublished post by its address'
        : `Readers can open ${count} unpublished posts by their addresses`,
    detail: `${address} answers 200.${query === undefined ? '' : ` Query “${query}” does not have the condition “published”.`}`,
    affects: 'now',
    witness: witness(address, `“${first?.title ?? ''}” is not published`, '200', '404'),
    cause:
      query === undefined
        ? `Route “${route}” shows the post.`
        : `Route “${route}” uses query “${query}”, which returns any post with the slug.`,
    place: document === undefined ? placeOfRoute(facts, route) : { document, line: null },
    others: others.map((one) => one.path),
    fixes:
      document === undefined
        ? []
        : saveFix(
            document,
            addCondition(facts.documents.get(document) ?? '', 'published'),
            'Add “published” to the query',
            `${counted(count, 'address answers', 'addresses answer')} 404. Published posts are not affected, and authors still see the others.`,
          ),
  }
}
