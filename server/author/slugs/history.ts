/** The history of slugs. A former slug redirects to the row that had it last; a current slug always comes first. */
import type { EntityManager } from 'typeorm'
import type { SlugKind } from '../../../core/shapes/content-kinds.ts'
import { FORMER_SLUG_OWNER } from '../../store/content/slugs.ts'
import { FormerSlugEntity } from '../../store/entities/history.ts'

/** Stores that a row had the slug `from`, and that `to` is current again. */
export async function rememberSlug(
  manager: EntityManager,
  kind: SlugKind,
  owner: number,
  from: string,
  to: string,
): Promise<void> {
  await forgetSlug(manager, kind, to)
  const column = FORMER_SLUG_OWNER[kind]
  await manager
    .createQueryBuilder()
    .insert()
    .into(FormerSlugEntity)
    .values({ kind, slug: from, [column]: owner, createdAt: () => 'now()' })
    .orUpdate([`${kind}_id`, 'created_at'], ['kind', 'slug'])
    .execute()
}

/** Call when a row takes a slug that another row had before. */
export async function forgetSlug(manager: EntityManager, kind: SlugKind, slug: string): Promise<void> {
  await manager.delete(FormerSlugEntity, { kind, slug })
}
