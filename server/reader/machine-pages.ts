/** Answers for programs: feeds, sitemaps, robots.txt and security.txt. They run the same queries as pages. No copies are kept. */
import { v5 as uuid } from 'uuid'
import { FEED_TYPES, writeFeed, type FeedFormat, type FeedItem } from '../../core/syndication/feeds.ts'
import {
  SITEMAP_PART,
  SITEMAP_SIZE,
  writeRobots,
  writeSitemap,
  writeSitemapIndex,
  type SitemapEntry,
} from '../../core/syndication/sitemap.ts'
import { PREVIEW_SIZE, PREVIEW_VERSION } from '../../core/syndication/preview-image.ts'
import { SECURITY_PATH, writeSecurityTxt } from '../../core/syndication/security-txt.ts'
import { withAbsoluteAddresses } from '../../core/syndication/whole-text.ts'
import type { CompiledRoute } from '../../core/routing/addresses/compiled-route.ts'
import type { PreviewColours, Route, SecurityContact, SourceName } from '../../core/shapes/schemas.ts'
import { previewImage } from '../jobs/preview-image.ts'
import { PostEntity } from '../store/entities/content.ts'
import { addressesOf, type RealAddress } from './addresses/real-addresses.ts'
import { publicOrigin } from './comments/mail-links.ts'
import { tagOf } from './http/send.ts'
import { addressFor } from './addresses/slug-address.ts'
import { blogValues } from './blog-values.ts'
import type { Ending, PageRequest, RouteInForce } from './page-request.ts'
import { PRIVATE, type BlogResponse } from './responses.ts'
import { loadWholeData, type WholeData } from './whole-data.ts'

interface Made {
  outcome: 'answered'
  response: BlogResponse
}
type Answered = Made | Ending

/** How long programs may keep an answer, in seconds. */
const MAX_AGE = 300

/** Whether a route answers programs, and not readers. */
export const isForMachines = ({ feed, sitemap, robots, security, preview }: Route): boolean =>
  feed !== undefined || sitemap === true || robots === true || security !== undefined || preview !== undefined

export async function machinePage(
  page: PageRequest,
  inForce: RouteInForce & { route: Route },
): Promise<Answered> {
  const { feed, sitemap, security, preview } = inForce.route
  if (preview) return await previewPage(page, inForce, preview)
  if (security) return securityPage(page, inForce.route.name, security)
  if (feed !== undefined) return await feedPage(page, inForce, feed)
  return sitemap === true ? await sitemapPage(page, inForce.route) : robotsPage(page, inForce.route)
}

const answered = ({ request }: PageRequest, route: string, type: string, body: string): Made => ({
  outcome: 'answered',
  response: {
    status: 200,
    headers: {
      'content-type': type,
      // An author sees what readers must not.
      ...(request.as === 'author' ? PRIVATE : { 'cache-control': `public, max-age=${MAX_AGE}` }),
      'x-content-type-options': 'nosniff',
      'access-control-allow-origin': '*',
    },
    body,
    route,
    fragments: [],
  },
})

const originOf = ({ site, ports }: PageRequest): string =>
  publicOrigin({ site, origins: ports.origins }) || 'http://localhost'

/** A post as a query returns it. */
interface PostRow {
  id: number
  slug: string
  title: string
  excerpt: string | null
  publishedAt: Date | null
  updatedAt: Date | null
  author?: { name: string } | null
  category?: { name: string } | null
  tags?: { name: string }[]
  image?: { name: string } | null
}

async function feedPage(
  page: PageRequest,
  inForce: RouteInForce & { route: Route },
  format: FeedFormat,
): Promise<Answered> {
  const { route } = inForce
  const loaded = await loadWholeData(page, inForce)
  if (loaded.outcome !== 'loaded') return loaded
  const values = loaded.values.map(([, value]) => value)
  const posts =
    valuesFrom(page, route, loaded.values, 'posts')
      .map(rowsOf)
      .find((one) => one !== undefined) ?? []
  // What the feed is about, such as a category.
  const subject = values.find((one) => rowsOf(one) === undefined) as
    { name?: unknown; title?: unknown } | null | undefined
  const about = [subject?.name, subject?.title].find((one) => typeof one === 'string')
  const { settings } = page.site.definition
  const blog = blogValues(settings)
  const origin = originOf(page)
  const self = `${origin}${page.shownPath}`
  const texts = route.texts === 'full' ? await textsOf(page, posts) : undefined
  return answered(
    page,
    route.name,
    FEED_TYPES[format],
    writeFeed(format, {
      id: self,
      title: [route.heading ?? about, settings.title].filter((one) => one !== undefined).join(' · '),
      description: settings.tagline ?? '',
      language: blog.language,
      home: `${origin}${homeOf(page, route)}`,
      self,
      items: posts.flatMap((one) => itemOf(page, origin, one, texts?.get(one.id)) ?? []),
    }),
  )
}

/** Returns the values that are rows of a source, as their queries say. */
const valuesFrom = (
  { site }: PageRequest,
  { data = {} }: Route,
  values: WholeData['values'],
  source: SourceName,
): unknown[] =>
  values.flatMap(([name, value]) => {
    const entry = data[name]
    const meaning = site.definition.queries.get(typeof entry === 'object' ? entry.query : (entry ?? ''))
    return meaning?.from === source && meaning.countBy.length === 0 ? [value] : []
  })

/** Returns the posts of a list or of a page of one; undefined for other values. */
function rowsOf(value: unknown): readonly PostRow[] | undefined {
  if (Array.isArray(value)) return value as PostRow[]
  const items = typeof value === 'object' && value !== null && 'items' in value ? value.items : undefined
  return Array.isArray(items) ? (items as PostRow[]) : undefined
}

/** Returns the path of the page for readers: the feed's own without its last part, if a route answers that. */
function homeOf({ site, shownPath }: PageRequest, route: Route): string {
  const above = withoutLast(route.path)
  const isPage = site.definition.routes.some(
    ({ route, pattern }) => route.template !== undefined && pattern.text === above,
  )
  return isPage ? withoutLast(shownPath) : '/'
}

const withoutLast = (path: string) => path.replace(/\/[^/]*$/, '') || '/'

/** Returns the texts of posts as HTML, by their numbers. */
async function textsOf({ ports }: PageRequest, posts: readonly PostRow[]): Promise<Map<number, string>> {
  const rows = await ports.database
    .getRepository(PostEntity)
    .createQueryBuilder('post')
    .select('post.id', 'id')
    .addSelect('post.html', 'html')
    .where('post.id = ANY(:ids)', { ids: posts.map((one) => one.id) })
    .getRawMany<{ id: number; html: string }>()
  return new Map(rows.map(({ id, html }) => [id, html]))
}

/** @param html the whole text; undefined if the feed has excerpts only */
function itemOf(
  { site }: PageRequest,
  origin: string,
  post: PostRow,
  html: string | undefined,
): FeedItem | undefined {
  const found = addressFor({ site }, 'post', post.slug)
  const published = post.publishedAt
  if (!found || !published) return undefined
  const url = `${origin}${found.path}`
  return {
    id: `urn:uuid:${uuid(`${new URL(origin).hostname}/post/${post.id}`, uuid.URL)}`,
    url,
    title: post.title,
    summary: post.excerpt ?? '',
    html: html === undefined ? null : withAbsoluteAddresses(html, url),
    published,
    updated: post.updatedAt && post.updatedAt > published ? post.updatedAt : published,
    author: post.author?.name ?? null,
    terms: [...new Set([post.category?.name, ...(post.tags ?? []).map((one) => one.name)])].flatMap(
      (one) => one ?? [],
    ),
    image: post.image ? `${origin}/media/${encodeURIComponent(post.image.name)}` : null,
  }
}

async function sitemapPage(page: PageRequest, route: Route): Promise<Answered> {
  const { site, ports, search } = page
  const origin = originOf(page)
  const routes = site.definition.routes.filter(
    (one) => one.route.template !== undefined && one.method === 'GET',
  )
  const totals = await Promise.all(
    routes.map(async (one) => (await addressesOf(ports, site, one, { size: 1 }))?.total ?? 0),
  )
  const total = totals.reduce((sum, one) => sum + one, 0)
  const parts = Math.max(1, Math.ceil(total / SITEMAP_SIZE))
  const part = Number(search.get(SITEMAP_PART) ?? 0)
  const xmlType = 'application/xml; charset=utf-8'
  if (search.has(SITEMAP_PART) && !(Number.isInteger(part) && part >= 1 && part <= parts))
    return { outcome: 'not-found' }
  if (parts > 1 && part === 0) {
    const files = Array.from(
      { length: parts },
      (_, index) => `${origin}${page.shownPath}?${SITEMAP_PART}=${index + 1}`,
    )
    return answered(page, route.name, xmlType, writeSitemapIndex(files))
  }
  const first = (Math.max(part, 1) - 1) * SITEMAP_SIZE
  const addresses = await slice(page, routes, totals, first)
  const changed = await changesOf(page, addresses)
  const entries = addresses.map(({ path, row }): SitemapEntry => ({
    url: `${origin}${path}`,
    changed: (row && changed.get(`${row.source} ${row.id}`)) ?? null,
  }))
  return answered(page, route.name, xmlType, writeSitemap(entries))
}

/** Returns the addresses from a position on, in the order of the routes. Each route is read in pages of the same size. */
async function slice(
  { ports, site }: PageRequest,
  routes: readonly CompiledRoute[],
  totals: readonly number[],
  first: number,
): Promise<RealAddress[]> {
  const found: RealAddress[] = []
  let before = 0
  for (const [index, route] of routes.entries()) {
    const total = totals[index] ?? 0
    const from = Math.max(first - before, 0)
    const to = Math.min(first + SITEMAP_SIZE - before, total)
    before += total
    for (
      let number = Math.floor(from / SITEMAP_SIZE) + 1;
      from < to && (number - 1) * SITEMAP_SIZE < to;
      number++
    ) {
      const start = (number - 1) * SITEMAP_SIZE
      const { addresses = [] } =
        (await addressesOf(ports, site, route, { page: number, size: SITEMAP_SIZE })) ?? {}
      found.push(...addresses.slice(Math.max(from - start, 0), to - start))
    }
  }
  return found
}

/** When rows have changed: a category, tag or author when the posts that its page lists have. */
const CHANGED: Partial<Record<SourceName, string>> = {
  posts: 'SELECT id, updated_at AS changed FROM post WHERE id = ANY($1)',
  pages: 'SELECT id, updated_at AS changed FROM page WHERE id = ANY($1)',
  categories: `SELECT category_id AS id, max(updated_at) AS changed FROM post
    WHERE category_id = ANY($1) AND published_at <= now() GROUP BY 1`,
  authors: `SELECT author_id AS id, max(updated_at) AS changed FROM post
    WHERE author_id = ANY($1) AND published_at <= now() GROUP BY 1`,
  tags: `SELECT tag_id AS id, max(updated_at) AS changed FROM post JOIN post_tag ON post_id = post.id
    WHERE tag_id = ANY($1) AND published_at <= now() GROUP BY 1`,
}

/** Returns when the rows behind addresses have changed, by source and number: `posts 31`. */
async function changesOf(
  { ports }: PageRequest,
  addresses: readonly RealAddress[],
): Promise<Map<string, Date>> {
  const found = new Map<string, Date>()
  for (const [source, statement] of Object.entries(CHANGED)) {
    const ids = addresses.flatMap(({ row }) => (row?.source === source ? [row.id] : []))
    if (ids.length === 0) continue
    const rows = await ports.database.query<{ id: number; changed: Date }[]>(statement, [ids])
    for (const { id, changed } of rows) found.set(`${source} ${id}`, changed)
  }
  return found
}

/** An image with the title of the post of the route's data, or of the blog. */
async function previewPage(
  page: PageRequest,
  inForce: RouteInForce & { route: Route },
  colours: PreviewColours,
): Promise<Answered> {
  const loaded = await loadWholeData(page, inForce)
  if (loaded.outcome !== 'loaded') return loaded
  // A post before what else the route has, such as its category.
  const values = [
    ...valuesFrom(page, inForce.route, loaded.values, 'posts'),
    ...loaded.values.map(([, value]) => value),
  ]
  const [subject] = values.flatMap((value) => {
    const { title, name } = (value ?? {}) as { title?: unknown; name?: unknown }
    return [title, name].filter((one) => typeof one === 'string')
  })
  const blog = page.site.definition.settings.title
  const text = { title: subject ?? inForce.route.heading ?? blog, blog, colours }
  const { width, height } = PREVIEW_SIZE
  const found = answered(page, inForce.route.name, 'image/png', `A PNG image of ${width} × ${height} pixels.`)
  found.response.headers['etag'] = `"${tagOf(JSON.stringify([PREVIEW_VERSION, text]))}"`
  found.response.file = () => previewImage(text)
  return found
}

function securityPage(page: PageRequest, name: string, contact: SecurityContact): Answered {
  const { site, ports } = page
  const origin = publicOrigin({ site, origins: ports.origins })
  return answered(
    page,
    name,
    'text/plain; charset=utf-8',
    writeSecurityTxt(contact, origin.startsWith('https://') ? `${origin}${SECURITY_PATH}` : undefined),
  )
}

function robotsPage(page: PageRequest, { name }: Route): Answered {
  const { routes } = page.site.definition
  const sitemap = routes.find(({ route }) => route.sitemap === true)
  const searches = routes.flatMap(({ route, pattern }) =>
    Object.values(route.query ?? {}).includes('text') && pattern.names.length === 0
      ? [`${pattern.text}?`]
      : [],
  )
  const origin = originOf(page)
  return answered(
    page,
    name,
    'text/plain; charset=utf-8',
    writeRobots(sitemap && `${origin}${sitemap.pattern.text}`, searches),
  )
}
