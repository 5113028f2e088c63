/** Slugs of stored rows: whether one is free, changing one, and the history that makes former slugs redirect. */
import type { EntityManager } from 'typeorm'
import type { SlugKind } from '../../../core/shapes/content-kinds.ts'
import { conflict, refused, success, unknown, type Outcome } from '../../../core/shapes/outcome.ts'
import { SLUG_PROBLEMS } from '../../../core/slugs/problems.ts'
import { freeSlug, slugOf, slugProblem, type SlugRules } from '../../../core/slugs/slug.ts'
import type { PoolPort } from '../../publish/ports.ts'
import { SLUG_ENTITY, SLUG_TABLE, slugsStartingWith } from '../../store/content/slugs.ts'
import { ROW_PROBLEMS } from '../problems.ts'
import type { Writing } from '../writing.ts'
import { forgetSlug, rememberSlug } from './history.ts'
import { movePage } from './move-page.ts'

export interface SlugAnswer {
  slug: string
  /** Whether the slug can be saved. */
  free: boolean
  /** Why not, or what to know about it, as a sentence. */
  note: string | null
  /** A free slug: this one, or a similar one. */
  suggestion: string
}

export interface SlugQuestion {
  kind: SlugKind
  /** The slug as typed, or a title to derive it from. */
  text: string
  fromTitle: boolean
  /** The slug (the path of a page) of the row that is being edited. */
  own: string | undefined
}

/**
 * Validates a slug before it is saved.
 * @param hiding returns the address of a slug and the route that would answer it instead, if there is one
 */
export async function checkSlug(
  { pool }: PoolPort,
  rules: SlugRules,
  { kind, text, fromTitle, own }: SlugQuestion,
  hiding: (slug: string) => { address: string; route: string } | undefined,
): Promise<SlugAnswer> {
  const slug = fromTitle ? slugOf(text, rules.maximum) : text
  const parent = kind === 'page' && own?.includes('/') ? own.slice(0, own.lastIndexOf('/') + 1) : ''
  const base = slugOf(slug, rules.maximum)
  const taken = await slugsStartingWith(pool, kind, parent + (base === '' ? slug : base).slice(0, 60))
  if (own !== undefined) taken.delete(own)
  const isTaken = (one: string) => taken.has(parent + one) || rules.reserved.has(one)
  const suggestion = base === '' ? '' : freeSlug(base, isTaken, rules.maximum)
  const answer = (free: boolean, note: string | null): SlugAnswer => ({ slug, free, note, suggestion })
  if (fromTitle && slug === '') {
    const { message, hint = '' } = SLUG_PROBLEMS['slug-not-derivable'](SLUG_TABLE[kind].title)
    return answer(false, `${message} ${hint}`.trim())
  }
  const problem = slugProblem(slug, rules)
  if (problem) return answer(false, problem.message)
  const title = taken.get(parent + slug)
  if (title !== undefined) return answer(false, `The ${kind} “${title}” has this slug.`)
  const hidden = hiding(slug)
  return answer(
    true,
    hidden
      ? `Its address ${hidden.address} is answered by route “${hidden.route}”, so readers would not see it.`
      : null,
  )
}

export interface ChangedSlug {
  /** The slug, or the path of a page, from now on. */
  current: string
  /** The slugs or paths that redirect from now on. */
  former: string[]
}

/**
 * Changes the slug of a row. A page can also move below another page, with all pages below it. Addresses that readers
 * could use redirect to the new ones.
 * @param from the slug, or the path of a page
 * @param to the new slug or path
 * @param version the version that was read, if the change must depend on it
 */
export async function changeSlug(
  writing: Writing,
  { kind, from, to, version }: { kind: SlugKind; from: string; to: string; version?: number | undefined },
): Promise<Outcome<ChangedSlug>> {
  const place = { file: 'content', path: '/to' }
  const problem = slugProblem(to.split('/').at(-1) ?? '', writing.definition.slugRules)
  if (problem) return refused({ ...place, ...problem })
  if (kind === 'page') return await movePage(writing, from, to)
  if (to.includes('/')) return refused({ ...place, ...ROW_PROBLEMS['slug-has-slash'](kind) })
  return await writing.attempt(
    (part) => changeOne(part, kind, from, to, version),
    (constraint) =>
      constraint === `${kind}_slug_key`
        ? refused({ ...place, ...ROW_PROBLEMS['slug-taken'](kind, to) })
        : undefined,
  )
}

async function changeOne(
  writing: Writing,
  kind: Exclude<SlugKind, 'page'>,
  from: string,
  to: string,
  version: number | undefined,
): Promise<Outcome<ChangedSlug>> {
  const { manager } = writing
  const { source } = SLUG_TABLE[kind]
  const rows = manager.getRepository(SLUG_ENTITY[kind])
  const row = await rows.findOne({
    where: { slug: from },
    select: { id: true, version: true },
    lock: { mode: 'pessimistic_write' },
  })
  const file = `content/${source}`
  if (!row) return unknown({ file, ...ROW_PROBLEMS['row-unknown'](kind, from) })
  if (version !== undefined && version !== row.version)
    return conflict({ file, ...ROW_PROBLEMS['version-conflict'](`this ${kind}`) }, { version: row.version })
  if (from === to) return success({ current: to, former: [] })
  const wasVisible = await isVisible(manager, kind, row.id)
  await rows.update(
    { id: row.id },
    {
      slug: to,
      version: row.version + 1,
      ...(kind === 'post' ? { updatedAt: () => 'now()' } : {}),
    },
  )
  if (wasVisible) await rememberSlug(manager, kind, row.id, from, to)
  else await forgetSlug(manager, kind, to)
  return success({ current: to, former: wasVisible ? [from] : [] })
}

async function isVisible(manager: EntityManager, kind: SlugKind, id: number): Promise<boolean> {
  return await manager
    .createQueryBuilder(SLUG_ENTITY[kind], 'owner')
    .where('owner.id = :id', { id })
    .andWhere(SLUG_TABLE[kind].visible)
    .getExists()
}
