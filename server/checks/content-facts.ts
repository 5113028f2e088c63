/** Facts about the content: links, images, categories, and everything that has a slug. */
import type {
  CategoryUse,
  Link,
  RemovedHtml,
  ShownImage,
  SluggedItem,
  TypedMarkdown,
} from '../../core/checks/facts.ts'
import { droppedBy, sanitizeHtml } from '../../core/content/html/allow-list.ts'
import { markdownFaults } from '../../core/content/html/markdown-faults.ts'
import { markdownForPages } from '../../core/content/html/markdown.ts'
import { fieldConditionsOf } from '../../core/queries/clauses.ts'
import { clausesOf } from '../../core/queries/meaning.ts'
import type { CompiledRoute } from '../../core/routing/addresses/compiled-route.ts'
import { buildPath } from '../../core/routing/addresses/build.ts'
import type { EntityManager } from 'typeorm'
import type { PoolPort } from '../publish/ports.ts'
import { bindingOf } from '../reader/addresses/real-addresses.ts'
import type { Site } from '../publish/site.ts'
import { slugKindOf, sluggedRows } from '../store/content/slugs.ts'
import {
  textsContaining,
  textsWithMarks,
  textsWithTags,
  type StoredText,
  type TypedText,
} from '../store/content/texts.ts'
import { SLUG_KINDS, type SlugKind } from '../../core/shapes/content-kinds.ts'
import { listTerms } from '../author/terms/terms.ts'
import { attributesIn } from './attributes.ts'

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

/** Returns the addresses that routes build from a slug, with the first of these routes. */
export const addressesFrom = (reading: Reading, kind: SlugKind, slug: string) => ({
  route: routesOfKind(reading, kind)[0]?.compiled.route.name ?? null,
  paths: pathsOf(reading, kind, slug),
})

const documentOf = ({ kind, name }: Pick<StoredText, 'kind' | 'name'>) => `content/${kind}s/${name}.md`

interface Attribute {
  name: string
  element?: string
  /** A part of every text with the attribute. */
  part: string
}

interface Use {
  value: string
  document: string
  line: number | null
  where: string
  isPublic: boolean
  /** The stored text; null for a template. */
  text: StoredText | null
}

/** Collects the values of an attribute in templates and in stored texts. */
async function collectAttribute(
  { pool }: PoolPort,
  documents: ReadonlyMap<string, string>,
  { name, element, part }: Attribute,
): Promise<Use[]> {
  const all: Use[] = []
  for (const [document, text] of documents) {
    if (!document.startsWith('templates/')) continue
    for (const { value, index } of attributesIn(text, name, element)) {
      const line = text.slice(0, index).split('\n').length
      all.push({ value, document, line, where: 'a template', isPublic: true, text: null })
    }
  }
  for (const text of await textsContaining(pool, part)) {
    const of = {
      document: documentOf(text),
      line: null,
      where: `“${text.title}”`,
      isPublic: text.isPublic,
      text,
    }
    for (const { value } of attributesIn(text.html, name, element)) all.push({ value, ...of })
  }
  return all
}

export async function collectLinks(blog: PoolPort, documents: ReadonlyMap<string, string>): Promise<Link[]> {
  const uses = await collectAttribute(blog, documents, { name: 'href', part: 'href="/' })
  return uses.map(({ value, document, line, where, isPublic }) => ({
    href: value,
    document,
    line,
    where,
    isPublic,
  }))
}

export async function collectImages(
  blog: PoolPort,
  documents: ReadonlyMap<string, string>,
  reading: Reading,
): Promise<ShownImage[]> {
  const uses = await collectAttribute(blog, documents, { name: 'src', element: 'img', part: '<img' })
  return uses.map(({ value, document, line, where, isPublic, text }) => ({
    src: value,
    document,
    line,
    where,
    path: text?.isPublic ? (pathsOf(reading, text.kind, text.name)[0] ?? null) : null,
    isPublic,
  }))
}

/** Whether an element, or an attribute of one, is in the text: what Markdown adds is no matter of the author. */
function isTyped(what: string, body: string): boolean {
  const [, attribute, element = ''] = /^(?:([\w-]+)(?:="[\s\S]*")? of )?<([\w-]+)>$/.exec(what) ?? []
  const named = attribute === undefined ? '' : `[^>]*\\b${attribute}\\b`
  return new RegExp(`<${element}\\b${named}`, 'i').test(body)
}

/** Texts with tags that are rendered, and their characters. */
const TYPED_TEXTS = 500
const TYPED_CHARACTERS = 2_000_000

/** Renders the texts in which tags are typed, and compares them with what is left for readers. */
export async function collectRemovedHtml({ pool }: PoolPort, reading: Reading) {
  const { htmlRules } = reading.site.definition
  const { rows, total } = await textsWithTags(pool, TYPED_TEXTS, TYPED_CHARACTERS)
  const removed = rows.flatMap((text): RemovedHtml[] => {
    const before = markdownForPages(text.body, htmlRules)
    return droppedBy(before, sanitizeHtml(before, htmlRules).html)
      .filter(({ what }) => isTyped(what, text.body))
      .map(({ what, times }) => ({ ...placeOfText(reading, text), ...{ what, times } }))
  })
  return { removed, tested: rows.length, of: total }
}

const placeOfText = (reading: Reading, text: TypedText) => ({
  document: documentOf(text),
  title: text.title,
  path: text.isPublic ? (pathsOf(reading, text.kind, text.name)[0] ?? null) : null,
  isPublic: text.isPublic,
})

/** Reads the Markdown of the texts in which some may have gone wrong. */
export async function collectTypedMarkdown({ pool }: PoolPort, reading: Reading) {
  const { rows, total } = await textsWithMarks(pool, TYPED_TEXTS, TYPED_CHARACTERS)
  const typed = rows.flatMap((text): TypedMarkdown[] =>
    markdownFaults(text.body).map((fault) => ({ ...placeOfText(reading, text), ...fault })),
  )
  return { typed, tested: rows.length, of: total }
}

export async function collectCategories(manager: EntityManager, reading: Reading): Promise<CategoryUse[]> {
  const terms = await listTerms(manager, 'category')
  // If listings include the categories below, those count as well.
  const isNested = [...reading.site.definition.queries.values()].some((query) =>
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
