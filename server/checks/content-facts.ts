/** Facts about the content: links, images, categories, and everything that has a slug. */
import type { CategoryUse, Link, ShownImage, SluggedItem } from '../../core/checks/facts.ts'
import { fieldConditionsOf } from '../../core/queries/clauses.ts'
import { clausesOf } from '../../core/queries/meaning.ts'
import type { CompiledRoute } from '../../core/routing/addresses/compiled-route.ts'
import { buildPath } from '../../core/routing/addresses/build.ts'
import type { DatabasePort, PoolPort, SitePort } from '../publish/ports.ts'
import { bindingOf } from '../reader/addresses/real-addresses.ts'
import type { Site } from '../publish/site.ts'
import { slugKindOf, sluggedRows } from '../store/content/slugs.ts'
import { textsContaining, type StoredText } from '../store/content/texts.ts'
import { SLUG_KINDS, type SlugKind } from '../../core/shapes/content-kinds.ts'
import { listTerms } from '../author/terms/terms.ts'

/** The maximum number of rows of each kind. */
const PER_KIND = 10_000

/** What the addresses of rows are built from. */
export interface Reading {
  site: Site
  routes: readonly CompiledRoute[]
}

/** Returns the routes whose only parameter is the slug of a kind. */
function routesOfKind({ site, routes }: Reading, kind: SlugKind) {
  return routes.flatMap((compiled) => {
    const [parameter, ...more] = compiled.pattern.names
    const binding = bindingOf(site, compiled)
    const field = parameter === undefined ? undefined : binding?.fields[parameter]
    if (!binding || parameter === undefined || field === undefined || more.length > 0) return []
    return slugKindOf(binding.source, field) === kind ? [{ compiled, parameter }] : []
  })
}

/** Returns the addresses that routes build from a slug. */
export function pathsOf(reading: Reading, kind: SlugKind, slug: string): string[] {
  return routesOfKind(reading, kind).flatMap(({ compiled, parameter }) => {
    const built = buildPath(compiled, { [parameter]: slug }, reading.site.definition.policy)
    return built.ok ? [built.path] : []
  })
}

const documentOf = ({ kind, name }: StoredText) => `content/${kind}s/${name}.md`
const plain = (value: string) => value.replaceAll('&amp;', '&')

/** Collects the values of an attribute in templates and in stored texts. */
async function attributes<T>(
  { pool }: PoolPort,
  documents: ReadonlyMap<string, string>,
  { pattern, part }: { pattern: RegExp; part: string },
  make: {
    template(value: string, document: string, line: number): T
    text(value: string, text: StoredText): T
  },
): Promise<T[]> {
  const all: T[] = []
  for (const [document, text] of documents) {
    if (!document.startsWith('templates/')) continue
    for (const found of text.matchAll(pattern))
      all.push(make.template(found[2] ?? '', document, text.slice(0, found.index).split('\n').length))
  }
  for (const text of await textsContaining(pool, part))
    for (const found of text.html.matchAll(pattern)) all.push(make.text(plain(found[2] ?? ''), text))
  return all
}

export const collectLinks = (blog: PoolPort, documents: ReadonlyMap<string, string>): Promise<Link[]> =>
  attributes<Link>(
    blog,
    documents,
    { pattern: /\bhref\s*=\s*(["'])(\/[^"'{}]*)\1/g, part: 'href="/' },
    {
      template: (href, document, line) => ({ href, document, line, where: 'a template', isPublic: true }),
      text: (href, text) => ({
        href,
        document: documentOf(text),
        line: null,
        where: `“${text.title}”`,
        isPublic: text.isPublic,
      }),
    },
  )

export const collectImages = (
  blog: PoolPort,
  documents: ReadonlyMap<string, string>,
  reading: Reading,
): Promise<ShownImage[]> =>
  attributes<ShownImage>(
    blog,
    documents,
    { pattern: /<img\b[^>]*?\bsrc\s*=\s*(["'])(\/(?!\/)[^"'{}]*)\1/g, part: '<img' },
    {
      template: (src, document, line) => ({
        src,
        document,
        line,
        where: 'a template',
        path: null,
        isPublic: true,
      }),
      text: (src, text) => ({
        src,
        document: documentOf(text),
        line: null,
        where: `“${text.title}”`,
        path: text.isPublic ? (pathsOf(reading, text.kind, text.name)[0] ?? null) : null,
        isPublic: text.isPublic,
      }),
    },
  )

export async function collectCategories(
  blog: DatabasePort & SitePort,
  reading: Reading,
): Promise<CategoryUse[]> {
  const terms = await listTerms(blog.database, 'category')
  // If listings include the categories below, those count as well.
  const isNested = [...blog.site.definition.queries.values()].some((query) =>
    fieldConditionsOf(clausesOf(query)).some((one) => one.is === 'within'),
  )
  const within = (slug: string): typeof terms =>
    terms.flatMap((one) =>
      one.slug === slug ? [one] : isNested && one.parent === slug ? within(one.slug) : [],
    )
  const sum = (of: typeof terms, state: 'published' | 'scheduled' | 'draft') =>
    of.reduce((all, one) => all + one.posts[state], 0)
  return terms.map(({ slug, name, version }) => {
    const counted = within(slug)
    return {
      slug,
      name,
      version,
      published: sum(counted, 'published'),
      scheduled: sum(counted, 'scheduled'),
      drafts: sum(counted, 'draft'),
      paths: pathsOf(reading, 'category', slug),
    }
  })
}

export async function collectSlugged(
  { pool }: PoolPort,
  reading: Reading,
): Promise<{ all: SluggedItem[]; total: number }> {
  const all: SluggedItem[] = []
  let total = 0
  for (const kind of SLUG_KINDS) {
    const found = await sluggedRows(pool, kind, PER_KIND)
    total += found.total
    for (const row of found.rows)
      all.push({ kind, ...row, path: pathsOf(reading, kind, row.slug)[0] ?? null })
  }
  return { all, total }
}
