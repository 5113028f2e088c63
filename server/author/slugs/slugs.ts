/** Slugs of stored rows: whether one is free, changing one, and where a former one leads. */
import type { DataSource, EntityManager } from 'typeorm'
import type { Change } from '../../../core/caching/purge.ts'
import type { SlugKind } from '../../../core/shapes/content-kinds.ts'
import { isUniqueViolation, SLUG_TABLE } from '../../store/slugs.ts'
import { freeSlug, slugFault, slugOf, type SlugRules } from '../../../core/slugs/slug.ts'

/** Notes a slug that a row gives up. The row that had it last is the one it leads to; what lives under it comes first. */
export async function rememberSlug(
  manager: EntityManager,
  kind: SlugKind,
  owner: number,
  from: string,
  to: string,
): Promise<void> {
  await manager.query(`DELETE FROM former_slug WHERE kind = $1 AND slug = $2`, [kind, to])
  await manager.query(
    `INSERT INTO former_slug (kind, slug, ${kind}_id) VALUES ($1, $2, $3)
     ON CONFLICT (kind, slug) DO UPDATE SET ${kind}_id = EXCLUDED.${kind}_id, created_at = now()`,
    [kind, from, owner],
  )
}

/** Called when a row takes a slug that another had before: the living one is the one it names. */
export const forgetSlug = (manager: EntityManager, kind: SlugKind, slug: string) =>
  manager.query(`DELETE FROM former_slug WHERE kind = $1 AND slug = $2`, [kind, slug])

export interface SlugAnswer {
  slug: string
  /** Whether the slug could be saved. */
  free: boolean
  /** Why not, or what to know about it, as a sentence. */
  note: string | null
  /** A slug that is free: this one, or one like it. */
  suggestion: string
}

/**
 * What would become of a slug.
 * @param text the slug as typed; or, with `fromTitle`, a title to make one of
 * @param own slug (of a page: path) of the row that is being edited
 * @param hiding address of the slug and the route that would take it instead, if any
 */
export async function judgeSlug(
  database: DataSource,
  rules: SlugRules,
  {
    kind,
    text,
    fromTitle,
    own,
  }: { kind: SlugKind; text: string; fromTitle: boolean; own: string | undefined },
  hiding: (slug: string) => { address: string; route: string } | undefined,
): Promise<SlugAnswer> {
  const slug = fromTitle ? slugOf(text, rules.maximum) : text
  const parent = kind === 'page' && own?.includes('/') ? own.slice(0, own.lastIndexOf('/') + 1) : ''
  const base = slugOf(slug, rules.maximum)
  const taken = await slugsLike(database, kind, parent, base === '' ? slug : base, own)
  const isTaken = (one: string) => taken.has(parent + one) || rules.reserved.has(one)
  const suggestion = base === '' ? '' : freeSlug(base, isTaken, rules.maximum)
  const answer = (free: boolean, note: string | null): SlugAnswer => ({ slug, free, note, suggestion })
  const fault = slugFault(slug, rules)
  if (fromTitle && slug === '') return answer(false, 'no slug can be made from this title; write one')
  if (fault !== undefined) return answer(false, fault)
  const title = taken.get(parent + slug)
  if (title !== undefined) return answer(false, `the ${kind} “${title}” has this slug`)
  const hidden = hiding(slug)
  if (hidden)
    return answer(
      true,
      `its address, ${hidden.address}, is answered by route “${hidden.route}”, so it would not be seen`,
    )
  return answer(true, null)
}

/** Slugs that begin like one, with the titles of their rows. */
async function slugsLike(
  database: DataSource,
  kind: SlugKind,
  parent: string,
  slug: string,
  own: string | undefined,
): Promise<Map<string, string>> {
  const { column, title } = SLUG_TABLE[kind]
  const rows = await database.query<{ slug: string; title: string }[]>(
    `SELECT ${column} AS slug, ${title} AS title FROM ${kind}
     WHERE (${column} = $1 OR starts_with(${column}, $2)) AND ($3::text IS NULL OR ${column} <> $3)`,
    [parent + slug, `${parent}${slug.slice(0, 60)}`, own ?? null],
  )
  return new Map(rows.map((row) => [row.slug, row.title]))
}

export type SlugChange =
  | {
      outcome: 'changed'
      current: string
      /** Slugs or paths that lead on from now on. */ former: string[]
      changes: Change[]
    }
  | { outcome: 'unknown' }
  | { outcome: 'refused'; message: string }

/**
 * Gives a row another slug; a page may also move below another page, and takes its subtree along. What readers could
 * see keeps answering at its old addresses.
 * @param from slug, or path of a page
 * @param to likewise
 */
export async function changeSlug(
  database: DataSource,
  rules: SlugRules,
  kind: SlugKind,
  from: string,
  to: string,
): Promise<SlugChange> {
  const fault = slugFault(to.split('/').at(-1) ?? '', rules)
  if (fault !== undefined || (kind !== 'page' && to.includes('/')))
    return {
      outcome: 'refused',
      message: fault ?? 'a slug has lower-case letters a–z, digits and hyphens, not “/”',
    }
  try {
    return await database.transaction((manager) =>
      kind === 'page' ? movePage(manager, from, to) : changeOne(manager, kind, from, to),
    )
  } catch (error) {
    if (!isUniqueViolation(error)) throw error
    return { outcome: 'refused', message: `another ${kind} has “${to}” already` }
  }
}

async function changeOne(
  manager: EntityManager,
  kind: Exclude<SlugKind, 'page'>,
  from: string,
  to: string,
): Promise<SlugChange> {
  const { source, visible } = SLUG_TABLE[kind]
  const [row] = await manager.query<{ id: number; visible: boolean }[]>(
    `SELECT owner.id, coalesce(${visible}, false) AS visible FROM ${kind} owner WHERE owner.slug = $1 FOR UPDATE`,
    [from],
  )
  if (!row) return { outcome: 'unknown' }
  if (from === to) return { outcome: 'changed', current: to, former: [], changes: [] }
  const version = `, version = version + 1${kind === 'post' ? ', updated_at = now()' : ''}`
  await manager.query(`UPDATE ${kind} SET slug = $1${version} WHERE id = $2`, [to, row.id])
  if (row.visible) await rememberSlug(manager, kind, row.id, from, to)
  else await forgetSlug(manager, kind, to)
  const change: Change = { source, id: row.id, before: { slug: from }, after: { slug: to } }
  return { outcome: 'changed', current: to, former: row.visible ? [from] : [], changes: [change] }
}

interface PageRow {
  id: number
  path: string
}

export async function movePage(manager: EntityManager, from: string, to: string): Promise<SlugChange> {
  // One move at a time: each sees the tree as the one before left it.
  await manager.query('LOCK TABLE page IN SHARE ROW EXCLUSIVE MODE')
  const subtree = await manager.query<PageRow[]>(
    `SELECT id, path FROM page WHERE path = $1 OR starts_with(path, $2) ORDER BY length(path)`,
    [from, `${from}/`],
  )
  const [page] = subtree
  if (page?.path !== from) return { outcome: 'unknown' }
  if (from === to) return { outcome: 'changed', current: to, former: [], changes: [] }
  if (to.startsWith(`${from}/`))
    return {
      outcome: 'refused',
      message: `“${to}” lies below the page itself; a page cannot be its own ancestor`,
    }
  const parentPath = to.includes('/') ? to.slice(0, to.lastIndexOf('/')) : null
  const [parent] =
    parentPath === null
      ? [null]
      : await manager.query<(PageRow | undefined)[]>('SELECT id, path FROM page WHERE path = $1', [
          parentPath,
        ])
  if (parent === undefined)
    return { outcome: 'refused', message: `there is no page “${parentPath ?? ''}” to move it below` }
  const [taken] = await manager.query<(PageRow | undefined)[]>('SELECT id, path FROM page WHERE path = $1', [
    to,
  ])
  if (taken) return { outcome: 'refused', message: `another page has the path “${to}” already` }
  await manager.query(
    'UPDATE page SET parent_id = $1, slug = $2, version = version + 1, updated_at = now() WHERE id = $3',
    [parent?.id ?? null, to.split('/').at(-1), page.id],
  )
  // The deepest first would do as well: the new paths lie outside the old subtree.
  const changes: Change[] = []
  for (const one of subtree) {
    const path = to + one.path.slice(from.length)
    await manager.query('UPDATE page SET path = $1 WHERE id = $2', [path, one.id])
    await rememberSlug(manager, 'page', one.id, one.path, path)
    changes.push({ source: 'pages', id: one.id, before: { path: one.path }, after: { path } })
  }
  return { outcome: 'changed', current: to, former: subtree.map((one) => one.path), changes }
}
