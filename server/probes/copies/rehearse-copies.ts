/**
 * Rehearses a change: which copies it refreshes, which it leaves as they are, and which go on showing what was before.
 * Everything is rendered before and after the change, so nothing here is a guess.
 */
import type { EntityManager } from 'typeorm'
import { plainText } from '../../../core/content/text.ts'
import type { RehearsedChange, CopyRehearsal, RehearsedCopy, StaleCopy } from '../../../contract/cache.ts'
import { NOTHING } from '../../../core/caching/dependence.ts'
import type { Copy, DroppedCopy } from '../../../core/caching/store.ts'
import { refused, success, type Outcome } from '../../../core/shapes/outcome.ts'
import { ROW_PROBLEMS } from '../../author/problems.ts'
import { Writing } from '../../author/writing.ts'
import { loadDocuments } from '../../publish/documents.ts'
import type { ClockPort, DatabasePort, PoolPort, SitePort, StorePort } from '../../publish/ports.ts'
import { buildSiteInSlices } from '../../publish/site.ts'
import type { LoggedChanges } from '../../store/changes/read-log.ts'
import { textOfCopy } from '../../reader/copies.ts'
import type { ScratchPort } from '../../reader/ports.ts'
import { addressesOfPages, renderedNow, type RenderedNow } from './rendered-now.ts'
import { makeChange } from './rehearsed-changes.ts'

/** The addresses of each route that are rendered. Rows that are changed are locked in the meantime. */
const OF_EACH = { newest: 40, oldest: 10, between: 30 }
/** Lines that are shown of a difference, and the longest of them. */
const MOST_LINES = 6
const LONGEST_LINE = 240

export type RehearseCopiesPorts = PoolPort & DatabasePort & SitePort & ClockPort & StorePort & ScratchPort

interface After {
  what: string
  rendered: RenderedNow
  /** The copies that the change drops, and those that go on showing what was before. */
  dropped: DroppedCopy[]
  outdated: DroppedCopy[]
}

/**
 * @param options.manager of an open transaction, if the rehearsal is a part of it
 * @param options.ofEach how many addresses of each route are rendered
 */
export async function rehearseCopies(
  blog: RehearseCopiesPorts,
  change: RehearsedChange,
  {
    signal,
    manager,
    ofEach = OF_EACH,
  }: { signal?: AbortSignal; manager?: EntityManager; ofEach?: typeof OF_EACH } = {},
): Promise<Outcome<CopyRehearsal>> {
  const { addresses, total } = await addressesOfPages(blog, ofEach)
  const before = await renderedNow(blog, addresses, {}, signal)
  const after =
    change.kind === 'template' || change.kind === 'setting'
      ? await afterDefinition(blog, change, before, addresses, signal)
      : await afterContent(blog, change, before, addresses, { signal, manager })
  return after.ok ? success(compare(before, after.value, addresses, total, blog.clock().getTime())) : after
}

async function afterContent(
  blog: RehearseCopiesPorts,
  change: Exclude<RehearsedChange, { kind: 'template' | 'setting' }>,
  before: RenderedNow,
  addresses: readonly string[],
  { signal, manager }: { signal: AbortSignal | undefined; manager: EntityManager | undefined },
): Promise<Outcome<After>> {
  let logged: LoggedChanges | undefined
  return await blog.store.rehearseWrites(
    (changes) => {
      logged = changes
      return []
    },
    async ({ pool, store }) => {
      const made = await store.write((unit) =>
        makeChange(new Writing(unit, blog.site.definition, blog.clock()), change),
      )
      if (!made.ok) return made
      const rendered = await renderedNow(blog, addresses, { pool }, signal)
      const { rows = [], readAt = blog.clock() } = logged ?? {}
      return success({
        what: made.value,
        rendered,
        dropped: before.store.affected(rows, readAt),
        outdated: before.store.outdated(rows, readAt),
      })
    },
    manager,
  )
}

async function afterDefinition(
  blog: RehearseCopiesPorts,
  change: Extract<RehearsedChange, { kind: 'template' | 'setting' }>,
  before: RenderedNow,
  addresses: readonly string[],
  signal: AbortSignal | undefined,
): Promise<Outcome<After>> {
  const documents = await loadDocuments(blog.database)
  const path = change.kind === 'template' ? change.template : 'blog.yaml'
  const text = documents.get(path)
  if (text === undefined) return refused({ file: path, ...ROW_PROBLEMS['row-unknown']('document', path) })
  const changed =
    change.kind === 'template'
      ? `${text}<!-- changed -->\n`
      : text.replace(/^title: .*$/m, `title: ${JSON.stringify(change.to ?? 'Another title')}`)
  const site = await buildSiteInSlices(blog.database, new Map(documents).set(path, changed))
  if (!site.ok) return site
  const { parts } = site.value
  const dropped = [...before.store.entries()].flatMap(([key, copy]) => {
    const part = [...copy.parts].find(([one, state]) => parts.state(one) !== state)?.[0]
    return part === undefined ? [] : [{ key, name: copy.name, why: `${part.replace(/@\w+$/, '')} changed` }]
  })
  return success({
    what: change.kind === 'template' ? `${path} is changed` : 'the title of the blog is changed',
    rendered: await renderedNow(blog, addresses, { site: site.value }, signal),
    dropped,
    outdated: [],
  })
}

function compare(
  before: RenderedNow,
  { what, rendered, dropped, outdated }: After,
  addresses: readonly string[],
  total: number,
  now: number,
): CopyRehearsal {
  const copies = new Map(before.store.entries())
  const after = new Map(rendered.store.entries())
  const isDropped = new Set(dropped.map((one) => one.key))
  /** The text that would be rendered now in the place of a copy; undefined if it is not rendered any more. */
  const newText = (key: string, copy: Copy): string | undefined => {
    const other = after.get(key)
    if (other) return textOfCopy(other)
    // A page has another key after a change of the definition.
    const target = copy.answer?.target
    const same = [...after.values()].find((one) => target !== undefined && one.answer?.target === target)
    return same && textOfCopy(same)
  }
  const refreshed = dropped.flatMap(({ key, why }): RehearsedCopy[] => {
    const copy = copies.get(key)
    if (!copy) return []
    return [{ ...named(copy), why, isSame: newText(key, copy) === textOfCopy(copy) }]
  })
  const pagesWithOld = outdated.flatMap(({ target }) => (target === undefined ? [] : [target]))
  const stale = outdated.flatMap(({ key, why }): StaleCopy[] => {
    const copy = copies.get(key)
    // A page in which only a fragment is old is one of the addresses of that fragment.
    if (!copy || copy.dependence !== NOTHING) return []
    const text = newText(key, copy)
    if (text === undefined || text === textOfCopy(copy)) return []
    return [
      {
        ...named(copy),
        why,
        longestMilliseconds: copy.staleUntil - now,
        ...difference(textOfCopy(copy), text),
        addresses: copy.answer ? [copy.answer.target ?? ''] : pagesWithOld,
      },
    ]
  })
  const staleKeys = new Set(outdated.map((one) => one.key))
  const kept = [...copies].filter(([key]) => !isDropped.has(key) && !staleKeys.has(key))
  return {
    what,
    rendered: addresses.length,
    addresses: total,
    refreshed: refreshed.sort((a, b) => (a.kind === b.kind ? 0 : a.kind === 'fragment' ? -1 : 1)),
    kept: kept.length,
    // What is kept has to be what would be rendered now. Anything else is a fault of Esquina.
    keptButDifferent: kept.flatMap(([key, copy]) => {
      const text = newText(key, copy)
      return text === undefined || text === textOfCopy(copy) ? [] : [named(copy)]
    }),
    stale,
    statuses: addresses.flatMap((address) => {
      const [was, is] = [before.answers.get(address)?.status ?? 0, rendered.answers.get(address)?.status ?? 0]
      return was === is ? [] : [{ address, before: was, after: is }]
    }),
  }
}

const named = ({ name, answer }: Copy) => ({
  kind: answer ? ('page' as const) : ('fragment' as const),
  name: answer ? name.replace(/^page /, '') : name,
  address: answer?.target ?? null,
})

/** Returns what can be read of each line; the line itself if that is nothing. */
const readable = (html: string): string[] => html.split('\n').map((line) => plainText(line) || line.trim())

/** Returns the lines that differ, without those that both texts begin and end with. */
function difference(before: string, after: string): { before: string; after: string } {
  const isInText = readable(before).join('\n') !== readable(after).join('\n')
  const linesOf = (html: string) => (isInText ? readable(html) : html.split('\n'))
  const [old, now] = [linesOf(before), linesOf(after)]
  let start = 0
  while (start < Math.min(old.length, now.length) && old[start] === now[start]) start++
  let end = 0
  while (end < Math.min(old.length, now.length) - start && old.at(-1 - end) === now.at(-1 - end)) end++
  const cut = (lines: readonly string[]) =>
    lines
      .slice(start, lines.length - end)
      .slice(0, MOST_LINES)
      .map((one) => (one.length > LONGEST_LINE ? `${one.slice(0, LONGEST_LINE)}…` : one))
      .join('\n')
  return { before: cut(old), after: cut(now) }
}
