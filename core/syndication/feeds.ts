/** Writes feeds: Atom (RFC 4287), RSS 2.0 and JSON Feed 1.1. All addresses are absolute. */

export interface FeedItem {
  /** An address or a name that identifies the post, also after its slug has changed. */
  id: string
  url: string
  title: string
  summary: string
  /** The whole text as HTML with absolute addresses; null if the feed has excerpts only. */
  html: string | null
  published: Date
  updated: Date
  author: string | null
  /** The category and the tags. */
  terms: readonly string[]
  image: string | null
}

export interface Feed {
  id: string
  title: string
  description: string
  language: string
  /** The page that shows the same posts. */
  home: string
  /** The address of the feed. */
  self: string
  items: readonly FeedItem[]
}

export type FeedFormat = 'atom' | 'rss' | 'json'

export const FEED_TYPES: Readonly<Record<FeedFormat, string>> = {
  atom: 'application/atom+xml; charset=utf-8',
  rss: 'application/rss+xml; charset=utf-8',
  json: 'application/feed+json; charset=utf-8',
}

export const writeFeed = (format: FeedFormat, feed: Feed): string =>
  ({ atom: atomFeed, rss: rssFeed, json: jsonFeed })[format](feed)

/** Whatever is not a character of XML 1.0 (section 2.2, `Char`). References to it are not allowed, either. */
const NOT_XML = /[^\t\n\r\u{20}-\u{D7FF}\u{E000}-\u{FFFD}\u{10000}-\u{10FFFF}]/gu

const ESCAPED: Readonly<Record<string, string>> = {
  '&': '&amp;',
  '<': '&lt;',
  '>': '&gt;',
  '"': '&quot;',
  "'": '&#39;',
}

/** Returns a text as content or as the value of an attribute in XML. */
export const xml = (text: string): string =>
  text.replace(NOT_XML, '').replace(/[&<>"']/g, (character) => ESCAPED[character] ?? character)

/** Returns when a feed has changed: when its latest item has. */
const updatedOf = ({ items }: Feed): Date =>
  new Date(Math.max(0, ...items.map((one) => one.updated.getTime())))

const element = (name: string, text: string | null) =>
  text === null || text === '' ? '' : `<${name}>${xml(text)}</${name}>`

const lines = (...parts: readonly string[]) => parts.filter((one) => one !== '').join('\n')

function atomFeed(feed: Feed): string {
  const { id, title, description, language, home, self, items } = feed
  return lines(
    '<?xml version="1.0" encoding="utf-8"?>',
    `<feed xmlns="http://www.w3.org/2005/Atom" xml:lang="${xml(language)}">`,
    element('id', id),
    element('title', title),
    element('subtitle', description),
    element('updated', updatedOf(feed).toISOString()),
    `<link rel="self" type="application/atom+xml" href="${xml(self)}"/>`,
    `<link rel="alternate" type="text/html" href="${xml(home)}"/>`,
    // An entry without an author has that of the feed (section 4.1.1).
    `<author>${element('name', title) || '<name>Blog</name>'}</author>`,
    ...items.map((one) =>
      lines(
        '<entry>',
        element('id', one.id),
        element('title', one.title) || '<title/>',
        element('published', one.published.toISOString()),
        element('updated', one.updated.toISOString()),
        `<link rel="alternate" type="text/html" href="${xml(one.url)}"/>`,
        one.author === null ? '' : `<author>${element('name', one.author)}</author>`,
        ...one.terms.map((term) => `<category term="${xml(term)}"/>`),
        one.summary === '' ? '' : `<summary type="text">${xml(one.summary)}</summary>`,
        one.html === null ? '' : `<content type="html">${xml(one.html)}</content>`,
        '</entry>',
      ),
    ),
    '</feed>\n',
  )
}

/** A date as RFC 822 has it, with a year of four digits (RSS 2.0). */
const rssDate = (date: Date) => date.toUTCString()

function rssFeed(feed: Feed): string {
  const { title, description, language, home, self, items } = feed
  return lines(
    '<?xml version="1.0" encoding="utf-8"?>',
    '<rss version="2.0" xmlns:atom="http://www.w3.org/2005/Atom" xmlns:dc="http://purl.org/dc/elements/1.1/" xmlns:content="http://purl.org/rss/1.0/modules/content/">',
    '<channel>',
    element('title', title),
    element('link', home),
    element('description', description || title),
    element('language', language),
    element('lastBuildDate', rssDate(updatedOf(feed))),
    `<atom:link rel="self" type="application/rss+xml" href="${xml(self)}"/>`,
    ...items.map((one) =>
      lines(
        '<item>',
        element('title', one.title),
        element('link', one.url),
        `<guid isPermaLink="false">${xml(one.id)}</guid>`,
        element('pubDate', rssDate(one.published)),
        element('dc:creator', one.author),
        ...one.terms.map((term) => element('category', term)),
        element('description', one.summary),
        element('content:encoded', one.html),
        '</item>',
      ),
    ),
    '</channel>',
    '</rss>\n',
  )
}

function jsonFeed({ title, description, language, home, self, items }: Feed): string {
  const feed = {
    version: 'https://jsonfeed.org/version/1.1',
    title,
    ...(description === '' ? {} : { description }),
    home_page_url: home,
    feed_url: self,
    language,
    items: items.map(({ id, url, title: name, summary, html, published, updated, author, terms, image }) => ({
      ...{ id, url, title: name },
      // An item needs one of content_text and content_html.
      ...(html === null ? { content_text: summary } : { content_html: html, summary }),
      ...(image === null ? {} : { image }),
      date_published: published.toISOString(),
      date_modified: updated.toISOString(),
      ...(author === null ? {} : { authors: [{ name: author }] }),
      ...(terms.length === 0 ? {} : { tags: terms }),
    })),
  }
  return `${JSON.stringify(feed, null, 1)}\n`
}
