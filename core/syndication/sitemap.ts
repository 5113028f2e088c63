/** Writes sitemaps (sitemaps.org protocol 0.9) and robots.txt (RFC 9309). All addresses are absolute. */
import { xml } from './feeds.ts'

/** Where search engines look for it (RFC 9309 §2.3). */
export const ROBOTS_PATH = '/robots.txt'

export interface SitemapEntry {
  url: string
  /** When the page has changed, if that is known. */
  changed: Date | null
}

/** Addresses in one file. The protocol allows 50,000; fewer keep a request short. */
export const SITEMAP_SIZE = 1_000

/** The parameter of the query string that selects a part of a sitemap that is split. */
export const SITEMAP_PART = 'part'

const NAMESPACE = 'http://www.sitemaps.org/schemas/sitemap/0.9'

export function writeSitemap(entries: readonly SitemapEntry[]): string {
  const urls = entries.map(
    ({ url, changed }) =>
      `<url><loc>${xml(url)}</loc>${changed === null ? '' : `<lastmod>${changed.toISOString()}</lastmod>`}</url>`,
  )
  return [
    '<?xml version="1.0" encoding="utf-8"?>',
    `<urlset xmlns="${NAMESPACE}">`,
    ...urls,
    '</urlset>',
    '',
  ].join('\n')
}

/** @param files addresses of sitemaps */
export function writeSitemapIndex(files: readonly string[]): string {
  const maps = files.map((one) => `<sitemap><loc>${xml(one)}</loc></sitemap>`)
  return [
    '<?xml version="1.0" encoding="utf-8"?>',
    `<sitemapindex xmlns="${NAMESPACE}">`,
    ...maps,
    '</sitemapindex>',
    '',
  ].join('\n')
}

/**
 * @param sitemap its address; undefined without one
 * @param closed paths that programs should not request: searches, whose number has no limit
 */
export const writeRobots = (sitemap: string | undefined, closed: readonly string[]): string =>
  [
    'User-agent: *',
    ...(closed.length === 0 ? ['Allow: /'] : closed.map((path) => `Disallow: ${path}`)),
    ...(sitemap === undefined ? [] : ['', `Sitemap: ${sitemap}`]),
    '',
  ].join('\n')
