/** What the rules may ask, answered by the running blog: its definition, its tables, and the pages readers get. */
import { randomUUID } from 'node:crypto'
import { setImmediate } from 'node:timers/promises'
import type { Answer, Facts, FormerAddress, KnownAddress } from '../../core/checks/facts.ts'
import type { CompiledRoute } from '../../core/routing/addresses/compiled-route.ts'
import { freeSlug } from '../../core/slugs/slug.ts'
import { appearancesOf } from '../probes/appearances.ts'
import { answer, type BlogRequest } from '../reader/answer.ts'
import type { Blog } from '../reader/blog.ts'
import { addressesOf, bindingOf, everyAddress, passesOn } from '../reader/addresses/real-addresses.ts'
import type { Site } from '../publish/site.ts'
import { Walk } from '../reader/walk/walk.ts'
import { pageFile } from '../author/pages/pages.ts'
import { postFile } from '../author/posts/posts.ts'
import { SLUG_TABLE, slugKindOf } from '../store/slugs.ts'
import { SLUG_KINDS } from '../../core/shapes/content-kinds.ts'
import type { RouteAnalyst } from '../jobs/analysis.ts'
import { askedAt, measuredQueries, rowsTaken, tieAtPageEnd } from './query-facts.ts'
import {
  collectCategories,
  collectLinks,
  collectNamed,
  collectPictures,
  pathsOf,
  type Reading,
} from './content-facts.ts'

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
  const made: Reading = { site, routes: reading }
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
          // A listing of a draft's month or category has an address of its own: nothing of the draft is there.
          if (title !== null) found.push({ route: compiled.route.name, path, title })
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
    asked: (path) => {
      signal.throwIfAborted()
      return askedAt(blog, path)
    },
    rowsTaken: (query, path) => rowsTaken(blog, query, path),
    tieAtPageEnd: (query) => tieAtPageEnd(blog, query),
    measurements: once(() => measuredQueries(blog)),
    links: once(() => collectLinks(blog, documents)),
    pictures: once(() => collectPictures(blog, documents, made)),
    images: once(async () =>
      (await blog.pool.query<{ name: string }>('SELECT name FROM image ORDER BY name')).rows.map(
        (one) => one.name,
      ),
    ),
    categories: once(() => collectCategories(blog, made)),
    named: once(() => collectNamed(blog, made)),
    async listedAt(slug) {
      const { found } = (await appearancesOf(blog, slug)) ?? { found: [] }
      return found.filter((one) => one.how === 'listed')
    },
    former: once(() => formerAddresses(blog, made)),
    unanswered: () => blog.unanswered.list(UNANSWERED),
    living: (slugs) => livingSlugs(blog, made, slugs),
    async document(path) {
      const [, kind, name = ''] = /^content\/(posts|pages)\/([a-z0-9/-]+)\.md$/.exec(path) ?? []
      if (kind === 'posts') return (await postFile(blog.database, name))?.text
      return kind === 'pages' ? (await pageFile(blog.database, name))?.text : documents.get(path)
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

async function formerAddresses(blog: Blog, reading: Reading): Promise<FormerAddress[]> {
  const all: FormerAddress[] = []
  for (const kind of SLUG_KINDS) {
    const { title, visible } = SLUG_TABLE[kind]
    const { rows } = await blog.pool.query<{ slug: string; title: string }>(
      `SELECT former.slug, owner.${title} AS title FROM former_slug former JOIN ${kind} owner ON owner.id = former.${kind}_id
       WHERE ${visible} ORDER BY former.id LIMIT ${OF_EACH_ROUTE}`,
    )
    for (const row of rows) all.push({ kind, ...row, paths: pathsOf(reading, kind, row.slug) })
  }
  return all
}

async function livingSlugs(
  blog: Blog,
  reading: Reading,
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
      const [path] = pathsOf(reading, kind, row.slug)
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
