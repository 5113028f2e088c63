/** Finds pages whose thread at an outside service changes with the address, or is that of another post. */
import { withCommentRules } from '../../comments/edit-rules.ts'
import type { ThreadProbe } from '../comment-facts.ts'
import type { Facts } from '../facts.ts'
import type { Fix } from '../finding.ts'
import { groupBy } from '../group-by.ts'
import { lineOf, saveFix, witness, type Rule, type RuleFinding } from '../rule.ts'

export const threadSplitByAddress: Rule = {
  id: 'thread-split-by-address',
  area: 'comments',
  meaning:
    'The thread of a post at the comment service changes with its address, or is that of another post.',
  why: 'Comments disappear after a new slug or through a link from a letter, or appear under posts to which they do not belong.',
  async run(facts) {
    const { requested, threads: probes } = await facts.threads()
    const [page] = requested
    if (page !== undefined && probes.length === 0)
      return { findings: [notEmbedded(facts, page)], claim: null }
    const findings = [...groupBy(probes, (one) => one.route)].flatMap(([route, own]) =>
      [
        split(own, (one) => one.other, 'is another one when something is added to the address'),
        split(own, (one) => one.renamed, 'is another one after the post gets a new slug'),
        merged(own),
      ].flatMap((found, kind) => (found ? [findingOf(facts, { ...found, route, kind })] : [])),
    )
    return {
      findings,
      claim: {
        sentence:
          'Each post has one thread of its own, whatever is added to its address and after a new slug',
        tested: probes.length,
        things: ['post with an embedded thread', 'posts with an embedded thread'],
      },
    }
  },
}

/** Comments are kept elsewhere, and readers do not see them. */
const notEmbedded = ({ documents }: Facts, page: string): RuleFinding => ({
  subject: 'not embedded',
  title: `${page} does not embed its thread`,
  detail: `The comment rules keep comments at an outside service, but ${page} has no script of it.`,
  affects: 'now',
  witness: witness(page, 'The page of a post', 'no thread', 'the script of the service'),
  cause: 'No template prints `form.outside.script`.',
  place: { document: 'blog.yaml', line: lineOf(documents.get('blog.yaml'), 'outside:') },
  others: [],
  fixes: [],
})

interface Found {
  first: ThreadProbe
  path: string
  thread: string | null
  what: string
  others: string[]
}

function split(
  own: readonly ThreadProbe[],
  asked: (one: ThreadProbe) => { path: string; thread: string | null } | null,
  what: string,
): Found | undefined {
  const wrong = own.filter((one) => {
    const other = asked(one)
    return other !== null && other.thread !== one.thread
  })
  const [first] = wrong
  const other = first && asked(first)
  return first && other ? { first, ...other, what, others: wrong.slice(1).map((one) => one.path) } : undefined
}

function merged(own: readonly ThreadProbe[]): Found | undefined {
  const shared = [...groupBy(own, (one) => one.thread).values()].find((some) => some.length > 1)
  const [first, second, ...more] = shared ?? []
  return first && second
    ? {
        first,
        path: second.path,
        thread: second.thread,
        what: 'is also that of another post',
        others: more.map((one) => one.path),
      }
    : undefined
}

function findingOf(
  facts: Facts,
  { first, path, thread, what, others, route, kind }: Found & { route: string; kind: number },
): RuleFinding {
  const isMerged = thread === first.thread
  return {
    subject: `${route} ${['address', 'slug', 'shared'][kind] ?? ''}`,
    title: `The thread of ${first.path} ${what}`,
    detail: isMerged
      ? `${first.path} and ${path} both name the thread “${first.thread}”.`
      : `${first.path} names the thread “${first.thread}”, ${path} names ${thread === null ? 'none' : `“${thread}”`}.`,
    affects: 'now',
    witness: witness(
      path,
      'The page names its thread',
      thread,
      isMerged ? 'a thread of its own' : first.thread,
    ),
    cause:
      'The thread is named by something that is not the same for all addresses of one post, and different for each post.',
    place: placeOf(facts),
    others,
    fixes: fixesOf(facts),
  }
}

/** Where the thread is named: in the comment rules, unless these name it by the post's id, or in a template. */
function placeOf({ documents, definition }: Facts) {
  if (definition.comments.outside?.identifier !== 'id')
    return { document: 'blog.yaml', line: lineOf(documents.get('blog.yaml'), 'outside:') }
  for (const [document, text] of documents) {
    const script = document.startsWith('templates/') ? SCRIPT.exec(text) : null
    if (script) return { document, line: lineOf(text, script[0]) }
  }
  return null
}

/** The script of the service in a template. */
const SCRIPT = /<script\b[^>]*\bform\.outside\.script(?:\{\{[\s\S]*?\}\}|[^>])*>/
const THREAD = /(\bdata-thread\s*=\s*)("[^"]*"|'[^']*')/

function fixesOf(facts: Facts): Fix[] {
  const place = placeOf(facts)
  const text = facts.documents.get(place?.document ?? '') ?? ''
  const after =
    'Each post keeps one thread, whatever its address. Comments in other threads stay at the service.'
  if (place?.document === 'blog.yaml') {
    const { comments = {} } = facts.definition.settings
    const { outside } = comments
    return outside === undefined
      ? []
      : saveFix(
          'blog.yaml',
          withCommentRules(text, { ...comments, outside: { ...outside, identifier: 'id' } }),
          'Name threads by the id of the post',
          after,
        )
  }
  const tag = SCRIPT.exec(text)?.[0]
  const changed = tag?.replace(THREAD, '$1"{{ form.outside.thread }}"')
  return place && tag !== undefined && changed !== undefined && changed !== tag
    ? saveFix(
        place.document,
        text.replace(tag, () => changed),
        'Print the thread of the comment rules',
        after,
      )
    : []
}
