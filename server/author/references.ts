/** The categories, authors, tags and images that content refers to, by slug or by name. */
import type { EntityManager } from 'typeorm'
import type { HtmlRules, ImageSizes } from '../../core/content/html/allow-list.ts'
import type { Worded } from '../../core/shapes/catalogue.ts'
import { AuthorEntity, CategoryEntity, ImageEntity, TagEntity } from '../store/entities/content.ts'
import { REFERENCE_TO_CONTENT_PROBLEMS } from './problems.ts'
import { loadImageSizes } from './texts/image-sizes.ts'

export type ReferenceKind = 'category' | 'author' | 'tag' | 'image'

interface Named {
  id: number
  slug: string
  name: string
}

/** The names of one kind. */
export class Names {
  readonly #kind: ReferenceKind
  readonly #bySlug: ReadonlyMap<string, Named>
  readonly #byName = new Map<string, Named[]>()

  constructor(kind: ReferenceKind, all: readonly Named[]) {
    this.#kind = kind
    this.#bySlug = new Map(all.map((one) => [one.slug, one]))
    for (const one of all) {
      const key = one.name.toLowerCase()
      this.#byName.set(key, [...(this.#byName.get(key) ?? []), one])
    }
  }

  /** Finds a row by its slug, or by its name without regard to case. */
  find(text: string): { ok: true; id: number; slug: string } | { ok: false; problem: Worded } {
    const bySlug = this.#bySlug.get(text)
    if (bySlug) return { ok: true, id: bySlug.id, slug: bySlug.slug }
    const [only, ...others] = this.#byName.get(text.trim().toLowerCase()) ?? []
    if (only && others.length === 0) return { ok: true, id: only.id, slug: only.slug }
    const problem = only
      ? REFERENCE_TO_CONTENT_PROBLEMS['reference-ambiguous'](
          this.#kind,
          text,
          [only, ...others].map((one) => one.slug),
        )
      : REFERENCE_TO_CONTENT_PROBLEMS['reference-unknown'](
          this.#kind,
          text,
          [...this.#bySlug.keys()].slice(0, SUGGESTED),
        )
    return { ok: false, problem }
  }
}

/** How many known names a problem lists. */
const SUGGESTED = 12

export interface ContentNames {
  of: Readonly<Record<ReferenceKind, Names>>
  sizeOf: ImageSizes
  rules: HtmlRules
}

export async function loadNames(manager: EntityManager, rules: HtmlRules): Promise<ContentNames> {
  const terms = (entity: typeof CategoryEntity | typeof AuthorEntity | typeof TagEntity) =>
    manager.find(entity, { select: { id: true, slug: true, name: true } })
  const images = await manager.find(ImageEntity, { select: { id: true, name: true } })
  return {
    of: {
      category: new Names('category', await terms(CategoryEntity)),
      author: new Names('author', await terms(AuthorEntity)),
      tag: new Names('tag', await terms(TagEntity)),
      image: new Names(
        'image',
        images.map(({ id, name }) => ({ id, slug: name, name })),
      ),
    },
    sizeOf: await loadImageSizes(manager),
    rules,
  }
}
