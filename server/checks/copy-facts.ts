/** What checks ask about copies: rendered into a store of its own, in which nothing else is. */
import type { EntityManager } from 'typeorm'
import type { CopyRule, OutlivedChange } from '../../core/checks/facts.ts'
import { groupBy } from '../../core/checks/group-by.ts'
import { withQuery } from '../../core/paging/numbered.ts'
import type { Copy } from '../../core/caching/store.ts'
import type { RehearsedChange } from '../../contract/cache.ts'
import { addressesOfPages, renderedNow, type RenderedNow } from '../probes/copies/rendered-now.ts'
import { rehearseCopies, type RehearseCopiesPorts } from '../probes/copies/rehearse-copies.ts'
import { rulesOfCopies } from '../probes/copies/rules-of-copies.ts'
import { textOfCopy } from '../reader/copies.ts'
import { useOf } from '../reader/pages/page-use.ts'
import { CategoryEntity, PostEntity } from '../store/entities/content.ts'

/** The addresses of each route that are rendered. */
const OF_EACH = { newest: 4, oldest: 2, between: 2 }
/** What no row has, as a slug and as a number. */
const MADE_UP = { slug: 'qzxjv-qzxjv', number: '918273645' }

/** How often copies were stored, and have answered, by `page ROUTE` or the name of a fragment. */
export type Counted = Readonly<Record<string, { hits: number; misses: number }>>

export async function copyRules(
  blog: RehearseCopiesPorts,
  counted: Counted,
  signal: AbortSignal,
): Promise<CopyRule[]> {
  const { addresses } = await addressesOfPages(blog, OF_EACH)
  const rendered = await renderedNow(blog, addresses, {}, signal)
  const copies = groupBy([...rendered.store.entries()], ([, copy]) => copy.name)
  const found: CopyRule[] = []
  for (const rule of await rulesOfCopies(blog)) {
    if (rule.notKept !== null) continue
    const name = rule.kind === 'page' ? `page ${rule.name}` : rule.name
    const own = (copies.get(name) ?? []).map(([, copy]) => copy)
    const [first] = own
    const counts = counted[name]
    found.push({
      ...rule,
      copies: own.length,
      allEqual: allEqual(rendered, own),
      madeUp:
        rule.kind === 'page' ? await keptMadeUp(blog, rule.name, first?.answer?.target ?? undefined) : null,
      wrongAfter: wrongAfter(blog, rule, own),
      address: first ? (addressesOf(rendered, first)[0] ?? null) : null,
      stored: counts?.misses ?? 0,
      answered: counts?.hits ?? 0,
    })
  }
  return found
}

/** Returns addresses at which a copy is shown. */
function addressesOf({ answers }: RenderedNow, copy: Copy): string[] {
  if (copy.answer) return copy.answer.target === null ? [] : [copy.answer.target]
  const text = textOfCopy(copy)
  return [...answers].filter(([, { body }]) => body.includes(text)).map(([address]) => address)
}

function allEqual(rendered: RenderedNow, own: readonly Copy[]): [string, string] | null {
  const [first] = own
  if (!first || own.length < 2) return null
  const text = textOfCopy(first)
  // What shows nothing is equal for another reason.
  if (text.trim() === '' || own.some((copy) => textOfCopy(copy) !== text)) return null
  const [one, other] = new Set(own.flatMap((copy) => addressesOf(rendered, copy)))
  return one === undefined || other === undefined ? null : [one, other]
}

/** Returns the longest word in the newest titles: one of many words for which a search finds something. */
async function wordOfPost(manager: EntityManager): Promise<string> {
  const posts = await newest(manager, 10)
  const words = posts.flatMap((one) => one.title.match(/[\p{L}\p{N}]+/gu) ?? [])
  return [...words].sort((a, b) => b.length - a.length)[0] ?? MADE_UP.slug
}

const newest = (manager: EntityManager, count: number): Promise<PostEntity[]> =>
  manager
    .createQueryBuilder(PostEntity, 'post')
    .where('post.published_at <= now()')
    .orderBy('post.published_at', 'DESC')
    .take(count)
    .getMany()

/** Requests a page with parameters that nobody has linked to. Those that answer 200 and are kept have no bound. */
async function keptMadeUp(
  blog: RehearseCopiesPorts,
  route: string,
  address: string | undefined,
): Promise<CopyRule['madeUp']> {
  const { site } = blog
  const compiled = site.definition.routes.find((one) => one.route.name === route)
  if (!compiled || address === undefined) return null
  const [path = ''] = address.split('?')
  const text = await wordOfPost(blog.database.manager)
  for (const parameter of useOf(site, compiled.route).parameters) {
    const type = compiled.route.query?.[parameter]
    const value = type === 'text' ? text : type === 'slug' ? MADE_UP.slug : MADE_UP.number
    const asked = withQuery(path, new URLSearchParams(), { [parameter]: value })
    const { store } = await renderedNow(blog, [asked])
    // The number of 404 pages is limited.
    const isKept = ({ answer }: Copy) => answer?.status === 200 && answer.target?.includes(value) === true
    if ([...store.entries()].some(([, copy]) => isKept(copy))) return { address: asked, parameter }
  }
  return null
}

function wrongAfter(
  { site, clock }: RehearseCopiesPorts,
  { kind, name, refresh }: Pick<CopyRule, 'kind' | 'name' | 'refresh'>,
  own: readonly Copy[],
): number | null {
  if (refresh !== 'by-age') return null
  const route = site.definition.routes.find((one) => one.route.name === name)?.route
  if (kind === 'page' && route && !useOf(site, route).isTimeless) return 0
  const earliest = Math.min(...own.map((copy) => copy.wrongAt))
  return Number.isFinite(earliest) ? Math.max(0, earliest - clock().getTime()) : null
}

/** Edits that are rehearsed one after the other: what readers see most often first. */
async function* edits(manager: EntityManager): AsyncGenerator<RehearsedChange> {
  const [post] = await newest(manager, 1)
  const [category] = await manager.find(CategoryEntity, { order: { id: 'ASC' }, take: 1 })
  if (post) {
    yield { kind: 'title', post: post.slug }
    yield { kind: 'comment', post: post.slug }
    yield { kind: 'unpublish', post: post.slug }
  }
  if (category) yield { kind: 'rename', category: category.slug }
}

export async function outlivedChange(
  blog: RehearseCopiesPorts,
  manager: EntityManager,
  rule: CopyRule,
  signal: AbortSignal,
): Promise<OutlivedChange | undefined> {
  for await (const change of edits(manager)) {
    const result = await rehearseCopies(blog, change, { signal, manager, ofEach: OF_EACH })
    const stale = result.ok
      ? result.value.stale.find((one) => one.kind === rule.kind && one.name === rule.name)
      : undefined
    if (!result.ok || !stale) continue
    return {
      edit: result.value.what,
      address: stale.addresses[0] ?? '/',
      before: stale.before.split('\n')[0] ?? '',
      after: stale.after.split('\n')[0] ?? '',
      longest: stale.longestMilliseconds,
    }
  }
  return undefined
}
