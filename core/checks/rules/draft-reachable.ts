/** A draft or scheduled post that a reader can read by typing its address. Found by asking, not by reading. */
import { addCondition } from '../../blog/edit.ts'
import { queriesOf } from '../../shapes/route-data.ts'
import type { Facts, KnownAddress } from '../facts.ts'
import { placeOfRoute, routeOf, witness, type Rule } from '../rule.ts'

export const draftReachable: Rule = {
  id: 'draft-reachable',
  area: 'queries',
  meaning: 'A reader can read a draft or a scheduled post by its address.',
  why: 'Hiding a post from lists is not enough: whoever guesses or keeps an address still reads it.',
  async run(facts) {
    const hidden = await facts.hidden()
    const open = new Map<string, KnownAddress[]>()
    for (const address of hidden) {
      const { status } = await facts.ask(address.path)
      if (status !== 200) continue
      open.set(address.route, [...(open.get(address.route) ?? []), address])
    }
    return {
      findings: [...open].map(([route, addresses]) => finding(facts, route, addresses)),
      proven:
        hidden.length > 0
          ? {
              sentence: 'No draft or scheduled post can be read by its address',
              count: `${hidden.length} addresses asked`,
            }
          : null,
    }
  },
}

function finding(facts: Facts, route: string, addresses: readonly KnownAddress[]) {
  const [first, ...others] = addresses
  const compiled = routeOf(facts, route)
  const query = queriesOf(compiled?.route ?? {}).find((name) => {
    const meaning = facts.definition.queries.get(name)
    return meaning?.from === 'posts' && meaning.take.kind === 'one' && !meaning.named.includes('published')
  })
  const document = query === undefined ? undefined : `queries/${query}.yaml`
  const mended =
    document === undefined ? undefined : addCondition(facts.documents.get(document) ?? '', 'published')
  const count = addresses.length
  return {
    subject: route,
    title:
      count === 1
        ? 'An unpublished post can be read by its address'
        : `${count} unpublished posts can be read by their addresses`,
    detail: `${first?.path ?? ''} answers 200 to a reader${query === undefined ? '' : `; query “${query}” lacks “published”`}.`,
    affects: 'now' as const,
    witness: witness(first?.path ?? '', `“${first?.title ?? ''}” is not published`, '200', '404'),
    because:
      query === undefined
        ? `Route “${route}” shows it.`
        : `Route “${route}” asks query “${query}”, which takes any row with that slug.`,
    place: document === undefined ? placeOfRoute(facts, route) : { document, line: null },
    also: others.map((one) => one.path),
    mends:
      document !== undefined && mended !== undefined
        ? [
            {
              label: 'Add “published” to the query',
              changes: [{ document, text: mended }],
              slug: null,
              after: `${count} ${count === 1 ? 'address answers' : 'addresses answer'} 404; published posts stay as they are. The author still sees them.`,
            },
          ]
        : [],
  }
}
