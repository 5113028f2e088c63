/** Collects the facts for rules from the running blog: its definition, its database, and the pages that readers get. */
import type { EntityManager } from 'typeorm'
import type { Answer, Facts, FormerAddress, KnownAddress, PageQuery } from '../../core/checks/facts.ts'
import { analyseRoutes } from '../../core/routing/analysis/analysis.ts'
import { redirectNeedsData } from '../../core/routing/addresses/redirect.ts'
import type { CompiledRoute } from '../../core/routing/addresses/compiled-route.ts'
import { freeSlug } from '../../core/slugs/slug.ts'
import { ImageEntity } from '../store/entities/content.ts'
import { fileResponse } from '../reader/listener.ts'
import { answer, type AnswerPorts } from '../reader/answer.ts'
import { refusedForm, internalRequest, type BlogRequest } from '../reader/request.ts'
import { errorTemplateFailure } from '../reader/error-pages.ts'
import type { ImagesPort, NotFoundPort, RehearsalPort, ScratchPort, UncachedPort } from '../reader/ports.ts'
import { formAddress } from '../reader/addresses/form-address.ts'
import { addressesOf, bindingOf, everyAddress, passesOn } from '../reader/addresses/real-addresses.ts'
import type { Site } from '../publish/site.ts'
import { Walk } from '../reader/walk/walk.ts'
import { pageFile } from '../author/pages/page-file.ts'
import { postFile } from '../author/posts/stored-post.ts'
import type { PoolPort } from '../publish/ports.ts'
import type { SlugChange } from '../../core/shapes/changes.ts'
import {
  slugKindOf,
  slugsStartingWith,
  visibleFormerSlugs,
  visibleRowsBySlug,
} from '../store/content/slugs.ts'
import { SLUG_KINDS } from '../../core/shapes/content-kinds.ts'
import { copyRules, outlivedChange, type Counted } from './copy-facts.ts'
import { probeThreads } from './thread-probe.ts'
import { probeComments } from './comment-probe.ts'
import { findLeaks } from './leaks.ts'
import { markupFaults } from './markup.ts'
import { publishedDates, queriesAt, measuredQueries, rowsTaken, tieAtPageEnd } from './query-facts.ts'
import {
  collectCategories,
  collectLinks,
  collectRemovedHtml,
  collectTypedMarkdown,
  collectSlugged,
  collectImages,
  pathsOf,
  addressesFrom,
  type Reading,
} from './content-facts.ts'

/** The maximum number of addresses of each route. */
const PER_ROUTE = 10_000
/** Redirects that are followed. */
const REDIRECTS = 3
/** The maximum number of addresses that were not found. */
const NOT_FOUND = 500

/** What collecting facts uses. */
export type FactPorts = AnswerPorts & UncachedPort & NotFoundPort & RehearsalPort & ScratchPort & ImagesPort

export interface FactsOptions {
  blog: FactPorts
  /** Reads the content: inside a transaction, if a change is rehearsed in it. */
  manager: EntityManager
  site: Site
  documents: ReadonlyMap<string, string>
  /** What copies of the running blog were used for. */
  counted: Counted
  signal: AbortSignal
}

/** Collects a fact at most once per run. */
function once<T>(find: () => Promise<T>): () => Promise<T> {
  let found: Promise<T> | undefined
  return () => (found ??= find())
}

export function collectFacts({ blog, manager, site, documents, counted, signal }: FactsOptions): Facts {
  const { definition } = site
  const reading = definition.routes.filter(
    ({ method, route }) => method === 'GET' && (!route.redirect || redirectNeedsData(route)),
  )
  const made: Reading = { site, routes: reading }
  const answers = new Map<string, Promise<Answer>>()
  const queries = new Map<string, Promise<PageQuery[]>>()

  const addresses = once(async () => {
    const known: KnownAddress[] = []
    let total = 0
    for (const compiled of reading) {
      for await (const { path, title } of everyAddress(blog, site, compiled, { limit: PER_ROUTE }))
        known.push({ route: compiled.route.name, path, title })
      total += (await addressesOf(blog, site, compiled, { size: 1 }))?.total ?? 0
      signal.throwIfAborted()
    }
    return { known, total }
  })

  const published = once(() => publishedDates(manager, blog.clock()))

  const hidden = once(async () => {
    const known: KnownAddress[] = []
    let total = 0
    for (const compiled of reading) {
      for await (const { path, title } of everyAddress(blog, site, compiled, {
        hidden: true,
        limit: PER_ROUTE,
      }))
        // An address without a title is a listing, e.g. of the draft's month, which does not show the draft.
        if (title !== null) known.push({ route: compiled.route.name, path, title })
      const found = await addressesOf(blog, site, compiled, { size: 1, hidden: true })
      if (typeof found?.addresses[0]?.title === 'string') total += found.total
    }
    return { known, total }
  })

  return {
    now: blog.clock(),
    documents,
    definition,
    copies: once(() => copyRules(blog, counted, signal)),
    outlived: (rule) => outlivedChange(blog, manager, rule, signal),
    addresses,
    passesOn: (route) => passesOn(site, route),
    analysis: once(async () =>
      analyseRoutes(
        definition.routes.map((compiled) => ({ compiled, passesOn: passesOn(site, compiled) })),
        definition.policy,
        (await addresses()).known.map((one) => one.path),
      ),
    ),
    comments: once(async () =>
      probeComments({ blog, manager, site, known: (await addresses()).known, signal }),
    ),
    threads: once(async () =>
      definition.comments.outside
        ? await probeThreads({ blog, manager, site, signal })
        : { requested: [], threads: [] },
    ),
    leaks: once(async () => {
      const [{ known }, own] = [await addresses(), await hidden()]
      const search = { blog, manager, site, routes: reading, known, hidden: own.known, signal }
      return await findLeaks(search)
    }),
    hidden,
    async request(path) {
      signal.throwIfAborted()
      const known = answers.get(path)
      if (known) return await known
      const requested = request(blog, internalRequest(path, { sparing: true }))
      answers.set(path, requested)
      return await requested
    },
    async status(path) {
      signal.throwIfAborted()
      const file = await fileResponse(blog, path, 'HEAD')
      if (file) return file.status
      // An address in another form redirects to the canonical one.
      let answered = await request(blog, internalRequest(path))
      for (let more = 0; more < REDIRECTS && answered.location?.startsWith('/'); more++)
        answered = await request(blog, internalRequest(answered.location))
      return answered.status
    },
    page: (path) => request(blog, internalRequest(path)),
    markupFaults: (html) => {
      signal.throwIfAborted()
      return markupFaults(html)
    },
    errorTemplateFailure: () => {
      const found = errorTemplateFailure(site)
      return Promise.resolve(
        found && { message: found.message, document: found.file ?? null, line: found.line ?? null },
      )
    },
    async forms() {
      const found: string[] = []
      for (const compiled of definition.routes.filter((one) => one.route.action !== undefined)) {
        const path = await formAddress(blog, site, compiled)
        if (path !== undefined) found.push(path)
      }
      return found
    },
    refusedForm: (path) => request(blog, refusedForm(path)),
    async queriesAt(path) {
      signal.throwIfAborted()
      let runs = queries.get(path)
      if (!runs) queries.set(path, (runs = published().then((dates) => queriesAt(blog, path, dates))))
      return await runs
    },
    rowsTaken: (query, path) => rowsTaken(blog, manager, query, path),
    tieAtPageEnd: (query) => tieAtPageEnd(blog, query),
    measurements: once(() => measuredQueries(blog)),
    links: once(() => collectLinks(blog, documents)),
    shownImages: once(() => collectImages(blog, documents, made)),
    removedHtml: once(() => collectRemovedHtml(blog, made)),
    typedMarkdown: once(() => collectTypedMarkdown(blog, made)),
    images: once(async () => {
      const images = manager.getRepository(ImageEntity)
      const all = await images.find({ select: { id: true, name: true }, order: { name: 'ASC' } })
      return all.map((one) => one.name)
    }),
    categories: once(() => collectCategories(manager, made)),
    slugged: once(() => collectSlugged(blog, made)),
    former: once(() => formerAddresses(blog, made)),
    notFound: () => blog.notFound.list(NOT_FOUND),
    visibleBySlug: (slugs) => visibleBySlug(blog, made, slugs),
    async document(path) {
      const [, kind, name = ''] = /^content\/(posts|pages)\/([a-z0-9/-]+)\.md$/.exec(path) ?? []
      if (kind === 'posts') return (await postFile(manager, name))?.text
      return kind === 'pages' ? (await pageFile(manager, name))?.text : documents.get(path)
    },
    freeSlugFor: (address) => freeSlugFor(blog, site, reading, address),
  }
}

async function request(blog: AnswerPorts, asked: BlogRequest): Promise<Answer> {
  const { status, headers, body, route } = await answer(blog, asked)
  const plain = {
    ...{ status, body, route, failure: null },
    location: headers['location'] ?? null,
    policy: headers['content-security-policy'] ?? null,
  }
  if (status < 500) return plain
  const walk = new Walk(asked, blog.clock(), blog.site.version)
  await answer(blog, asked, walk)
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

async function formerAddresses({ pool }: PoolPort, reading: Reading): Promise<FormerAddress[]> {
  const all: FormerAddress[] = []
  for (const kind of SLUG_KINDS)
    for (const row of await visibleFormerSlugs(pool, kind, PER_ROUTE))
      all.push({ kind, ...row, ...addressesFrom(reading, kind, row.slug) })
  return all
}

async function visibleBySlug(
  { pool }: PoolPort,
  reading: Reading,
  slugs: readonly string[],
): Promise<Map<string, { path: string; title: string }>> {
  const visible = new Map<string, { path: string; title: string }>()
  for (const kind of SLUG_KINDS)
    for (const row of await visibleRowsBySlug(pool, kind, slugs)) {
      const [path] = pathsOf(reading, kind, row.slug)
      if (path !== undefined && !visible.has(row.slug)) visible.set(row.slug, { path, title: row.title })
    }
  return visible
}

async function freeSlugFor(
  { pool }: PoolPort,
  site: Site,
  reading: readonly CompiledRoute[],
  { route, path }: KnownAddress,
): Promise<SlugChange | undefined> {
  const compiled = reading.find((one) => one.route.name === route)
  const binding = compiled && bindingOf(site, compiled)
  const [parameter = ''] = compiled?.pattern.names ?? []
  const kind = binding && slugKindOf(binding.source, binding.fields[parameter] ?? '')
  const from = compiled?.pattern.regexp.exec(path)?.[1]
  if (!kind || from === undefined) return undefined
  const taken = await slugsStartingWith(pool, kind, from)
  const { maximum, reserved } = site.definition.slugRules
  const isTaken = (slug: string) => taken.has(slug) || reserved.has(slug)
  return { kind, from, to: freeSlug(from, isTaken, maximum) }
}
