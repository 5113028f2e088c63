/** What the rules may ask, answered by the running blog: its definition, its tables, and the pages readers get. */
import { randomUUID } from 'node:crypto'
import { setImmediate } from 'node:timers/promises'
import type { Answer, Facts, FormerAddress, KnownAddress, Link } from '../../core/checks/facts.ts'
import type { CompiledRoute } from '../../core/routing/match.ts'
import { buildPath } from '../../core/routing/build.ts'
import { freeSlug } from '../../core/slugs/slug.ts'
import { answer, type BlogRequest } from '../blog/answer.ts'
import type { Blog } from '../blog/blog.ts'
import { addressesOf, bindingOf, everyAddress, passesOn } from '../blog/real-addresses.ts'
import type { Site } from '../blog/site.ts'
import { Walk } from '../blog/walk.ts'
import { postFile } from '../content/posts.ts'
import { SLUG_KINDS, SLUG_TABLE, slugKindOf, type SlugKind } from '../content/slugs.ts'
import type { RouteAnalyst } from '../jobs/analysis.ts'

/** Addresses of one route that rules look at. */
const OF_EACH_ROUTE = 10_000
const UNANSWERED = 500
/** Questions after which others get a turn. */
const TURN = 8

export interface FactsOptions {
  blog: Blog
  site: Site
  documents: ReadonlyMap<string, string>
  analyst: RouteAnalyst
  signal: AbortSignal
}

/** Each fact is found once a run. */
function once<T>(find: () => Promise<T>): () => Promise<T> {
  let found: Promise<T> | undefined
  return () => (found ??= find())
}

export function collectFacts({ blog, site, documents, analyst, signal }: FactsOptions): Facts {
  const { definition } = site
  const reading = definition.routes.filter((one) => one.method === 'GET' && !one.route.redirect)
  const answers = new Map<string, Promise<Answer>>()
  let asked = 0

  const addresses = once(async () => {
    const known: KnownAddress[] = []
    let total = 0
    for (const compiled of reading) {
      for await (const { path, title } of everyAddress(blog, site, compiled, { limit: OF_EACH_ROUTE }))
        known.push({ route: compiled.route.name, path, title })
      total += (await addressesOf(blog, site, compiled, { size: 1 }))?.total ?? 0
      signal.throwIfAborted()
    }
    return { known, total }
  })

  return {
    documents,
    definition,
    addresses,
    passesOn: (route) => passesOn(site, route),
    analysis: once(async () =>
      analyst.analyse({
        routes: definition.routes.map((one) => ({ route: one.route, passesOn: passesOn(site, one) })),
        policy: definition.policy,
        known: (await addresses()).known.map((one) => one.path),
      }),
    ),
    hidden: once(async () => {
      const found: KnownAddress[] = []
      for (const compiled of reading)
        for await (const { path, title } of everyAddress(blog, site, compiled, {
          hidden: true,
          limit: OF_EACH_ROUTE,
        }))
          found.push({ route: compiled.route.name, path, title })
      return found
    }),
    async ask(path) {
      signal.throwIfAborted()
      const known = answers.get(path)
      if (known) return await known
      // Readers come first: a run gives way now and then.
      if (++asked % TURN === 0) await setImmediate()
      const asking = askBlog(blog, path)
      answers.set(path, asking)
      return await asking
    },
    links: once(() => collectLinks(blog, documents)),
    former: once(() => formerAddresses(blog, site, reading)),
    unanswered: () => blog.unanswered.list(UNANSWERED),
    living: (slugs) => livingSlugs(blog, site, reading, slugs),
    async document(path) {
      const slug = /^content\/posts\/([a-z0-9-]+)\.md$/.exec(path)?.[1]
      return (
        documents.get(path) ?? (slug === undefined ? undefined : (await postFile(blog.database, slug))?.text)
      )
    },
    freeSlugLike: (address) => freeSlugLike(blog, site, reading, address),
  }
}

async function askBlog(blog: Blog, target: string): Promise<Answer> {
  const request: BlogRequest = {
    id: randomUUID(),
    method: 'GET',
    target,
    as: 'reader',
    sparing: true,
    header: () => undefined,
    form: () => Promise.resolve({ ok: false, status: 415, reason: '' }),
  }
  const { status, headers, body, route } = await answer(blog, request)
  const plain = { status, location: headers['location'] ?? null, body, route, failure: null }
  if (status < 500) return plain
  const walk = new Walk(request, blog.clock(), blog.site.version)
  await answer(blog, request, walk)
  const { failure } = walk.record
  return {
    ...plain,
    failure: failure && {
      message: failure.message,
      document: failure.place?.document ?? null,
      line: failure.place?.line ?? null,
      isBuild: failure.isBuild,
    },
  }
}

const HREF = /\bhref\s*=\s*(["'])(\/[^"'{}]*)\1/g

async function collectLinks(blog: Blog, documents: ReadonlyMap<string, string>): Promise<Link[]> {
  const links: Link[] = []
  for (const [document, text] of documents) {
    if (!document.startsWith('templates/')) continue
    for (const found of text.matchAll(HREF))
      links.push({
        href: found[2] ?? '',
        document,
        line: text.slice(0, found.index).split('\n').length,
        where: 'a template',
      })
  }
  const rows = await blog.pool.query<{ document: string; title: string; html: string }>(
    `SELECT 'content/posts/' || slug || '.md' AS document, title, html FROM post WHERE html LIKE '%href="/%'
     UNION ALL SELECT 'content/pages/' || path || '.md', title, html FROM page WHERE html LIKE '%href="/%'`,
  )
  for (const { document, title, html } of rows.rows)
    for (const found of html.matchAll(HREF))
      links.push({
        href: (found[2] ?? '').replaceAll('&amp;', '&'),
        document,
        line: null,
        where: `“${title}”`,
      })
  return links
}

/** The routes whose one parameter is the slug of a kind. */
function routesOfKind(site: Site, reading: readonly CompiledRoute[], kind: SlugKind) {
  return reading.flatMap((compiled) => {
    const [parameter, ...more] = compiled.pattern.names
    const binding = bindingOf(site, compiled)
    const field = parameter === undefined ? undefined : binding?.fields[parameter]
    if (!binding || parameter === undefined || field === undefined || more.length > 0) return []
    return slugKindOf(binding.source, field) === kind ? [{ compiled, parameter }] : []
  })
}

function pathsOf(site: Site, reading: readonly CompiledRoute[], kind: SlugKind, slug: string): string[] {
  return routesOfKind(site, reading, kind).flatMap(({ compiled, parameter }) => {
    const built = buildPath(compiled, { [parameter]: slug }, site.definition.policy)
    return built.ok ? [built.path] : []
  })
}

async function formerAddresses(
  blog: Blog,
  site: Site,
  reading: readonly CompiledRoute[],
): Promise<FormerAddress[]> {
  const all: FormerAddress[] = []
  for (const kind of SLUG_KINDS) {
    const { title, visible } = SLUG_TABLE[kind]
    const { rows } = await blog.pool.query<{ slug: string; title: string }>(
      `SELECT former.slug, owner.${title} AS title FROM former_slug former JOIN ${kind} owner ON owner.id = former.${kind}_id
       WHERE ${visible} ORDER BY former.id LIMIT ${OF_EACH_ROUTE}`,
    )
    for (const row of rows) all.push({ kind, ...row, paths: pathsOf(site, reading, kind, row.slug) })
  }
  return all
}

async function livingSlugs(
  blog: Blog,
  site: Site,
  reading: readonly CompiledRoute[],
  slugs: readonly string[],
): Promise<Map<string, { path: string; title: string }>> {
  const living = new Map<string, { path: string; title: string }>()
  for (const kind of SLUG_KINDS) {
    const { title, visible, column } = SLUG_TABLE[kind]
    const { rows } = await blog.pool.query<{ slug: string; title: string }>(
      `SELECT owner.${column} AS slug, owner.${title} AS title FROM ${kind} owner WHERE ${visible} AND owner.${column} = ANY($1)`,
      [slugs],
    )
    for (const row of rows) {
      const [path] = pathsOf(site, reading, kind, row.slug)
      if (path !== undefined && !living.has(row.slug)) living.set(row.slug, { path, title: row.title })
    }
  }
  return living
}

async function freeSlugLike(
  blog: Blog,
  site: Site,
  reading: readonly CompiledRoute[],
  { route, path }: KnownAddress,
) {
  const compiled = reading.find((one) => one.route.name === route)
  const binding = compiled && bindingOf(site, compiled)
  const [parameter = ''] = compiled?.pattern.names ?? []
  const kind = binding && slugKindOf(binding.source, binding.fields[parameter] ?? '')
  const from = compiled?.pattern.regexp.exec(path)?.[1]
  if (!kind || from === undefined) return undefined
  const { column } = SLUG_TABLE[kind]
  const { rows } = await blog.pool.query<{ slug: string }>(
    `SELECT ${column} AS slug FROM ${kind} WHERE starts_with(${column}, $1)`,
    [from],
  )
  const taken = new Set(rows.map((row) => row.slug))
  const { maximum, reserved } = site.definition.slugRules
  // The address of the new one must be its own, too.
  const isTaken = (slug: string) => taken.has(slug) || reserved.has(slug)
  return { kind, from, to: freeSlug(from, isTaken, maximum) }
}
