/** What the rules may ask about the content: links, pictures, categories, everything that has a slug. */
import type { CategoryUse, Link, Named, Picture } from '../../core/checks/facts.ts'
import { fieldConditionsOf } from '../../core/queries/clauses.ts'
import { clausesOf } from '../../core/queries/meaning.ts'
import type { CompiledRoute } from '../../core/routing/addresses/compiled-route.ts'
import { buildPath } from '../../core/routing/addresses/build.ts'
import type { Blog } from '../reader/blog.ts'
import { bindingOf } from '../reader/addresses/real-addresses.ts'
import type { Site } from '../publish/site.ts'
import { SLUG_TABLE, slugKindOf } from '../store/slugs.ts'
import { SLUG_KINDS, type SlugKind } from '../../core/shapes/content-kinds.ts'
import { listTerms } from '../author/terms/terms.ts'

/** Rows of a kind whose slugs are looked at. */
const OF_EACH_KIND = 10_000

/** What of the definition the addresses of rows are made with. */
export interface Reading {
  site: Site
  routes: readonly CompiledRoute[]
}

/** The routes whose one parameter is the slug of a kind. */
function routesOfKind({ site, routes }: Reading, kind: SlugKind) {
  return routes.flatMap((compiled) => {
    const [parameter, ...more] = compiled.pattern.names
    const binding = bindingOf(site, compiled)
    const field = parameter === undefined ? undefined : binding?.fields[parameter]
    if (!binding || parameter === undefined || field === undefined || more.length > 0) return []
    return slugKindOf(binding.source, field) === kind ? [{ compiled, parameter }] : []
  })
}

/** The addresses that routes make of a slug. */
export function pathsOf(reading: Reading, kind: SlugKind, slug: string): string[] {
  return routesOfKind(reading, kind).flatMap(({ compiled, parameter }) => {
    const built = buildPath(compiled, { [parameter]: slug }, reading.site.definition.policy)
    return built.ok ? [built.path] : []
  })
}

interface Text {
  kind: 'post' | 'page'
  name: string
  title: string
  html: string
  isPublic: boolean
}

/** Texts whose HTML has something in it. */
async function textsWith(blog: Blog, part: string): Promise<Text[]> {
  const { rows } = await blog.pool.query<Text>(
    `SELECT 'post' AS kind, slug AS name, title, html, coalesce(published_at <= now(), false) AS "isPublic" FROM post WHERE html LIKE $1
     UNION ALL SELECT 'page', path, title, html, true FROM page WHERE html LIKE $1`,
    [`%${part}%`],
  )
  return rows
}

const documentOf = ({ kind, name }: Text) => `content/${kind}s/${name}.md`
const plain = (value: string) => value.replaceAll('&amp;', '&')

/** Literal attributes of templates, and those of stored texts. */
async function attributes<T>(
  blog: Blog,
  documents: ReadonlyMap<string, string>,
  { pattern, part }: { pattern: RegExp; part: string },
  make: {
    template(value: string, document: string, line: number): T
    text(value: string, text: Text): T
  },
): Promise<T[]> {
  const all: T[] = []
  for (const [document, text] of documents) {
    if (!document.startsWith('templates/')) continue
    for (const found of text.matchAll(pattern))
      all.push(make.template(found[2] ?? '', document, text.slice(0, found.index).split('\n').length))
  }
  for (const text of await textsWith(blog, part))
    for (const found of text.html.matchAll(pattern)) all.push(make.text(plain(found[2] ?? ''), text))
  return all
}

export const collectLinks = (blog: Blog, documents: ReadonlyMap<string, string>): Promise<Link[]> =>
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

export const collectPictures = (
  blog: Blog,
  documents: ReadonlyMap<string, string>,
  reading: Reading,
): Promise<Picture[]> =>
  attributes<Picture>(
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

export async function collectCategories(blog: Blog, reading: Reading): Promise<CategoryUse[]> {
  const terms = await listTerms(blog.database, 'category')
  // Where listings show what is in the categories below as well, those count.
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

export async function collectNamed(blog: Blog, reading: Reading): Promise<{ all: Named[]; total: number }> {
  const all: Named[] = []
  let total = 0
  for (const kind of SLUG_KINDS) {
    const { column, title, visible } = SLUG_TABLE[kind]
    const { rows } = await blog.pool.query<{ slug: string; title: string; isPublic: boolean; total: number }>(
      `SELECT owner.${column} AS slug, owner.${title} AS title, coalesce(${visible}, false) AS "isPublic", count(*) OVER ()::int AS total
       FROM ${kind} owner ORDER BY ${kind === 'post' ? 'coalesce(owner.published_at <= now(), false), ' : ''}owner.id LIMIT ${OF_EACH_KIND}`,
    )
    total += rows[0]?.total ?? 0
    for (const { slug, title: named, isPublic } of rows)
      all.push({ kind, slug, title: named, isPublic, path: pathsOf(reading, kind, slug)[0] ?? null })
  }
  return { all, total }
}
