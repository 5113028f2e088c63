/** Reads what a page says about itself: its head, and its main heading. */
import type { PartReader } from './part.ts'
import type { PageHead, ReadPage } from './shape.ts'

/** The types of Atom (RFC 4287), RSS, and JSON Feed 1.1. */
const FEED = /^application\/((atom|rss)\+xml|feed\+json)\b/

const isEncoding = (attributes: Readonly<Record<string, string>>): boolean =>
  attributes['charset'] !== undefined || /^content-type$/i.test(attributes['http-equiv'] ?? '')

function noteHead(head: PageHead, name: string, attributes: Readonly<Record<string, string>>): void {
  if (name === 'base') head.base = attributes['href'] ?? head.base
  else if (name === 'html') head.language = attributes['lang'] ?? null
  else if (name === 'meta' && attributes['name'] === 'viewport') head.viewport = attributes['content'] ?? ''
  else if (name === 'meta' && attributes['name'] === 'robots') head.robots = attributes['content'] ?? ''
  else if (name === 'meta' && attributes['name'] === 'description')
    head.description = attributes['content'] ?? ''
  else if (name === 'meta' && isEncoding(attributes)) head.namesEncoding = true
  else if (name === 'meta' && attributes['property']?.startsWith('og:') === true)
    head.shared.set(attributes['property'], attributes['content'] ?? '')
  else if (name === 'link' && attributes['rel'] === 'alternate' && FEED.test(attributes['type'] ?? ''))
    head.feeds.push({ href: attributes['href'] ?? '', type: attributes['type'] ?? '' })
  else if (name === 'link' && attributes['rel'] === 'canonical') head.canonical = attributes['href'] ?? ''
}

export function readHead(): PartReader<Pick<ReadPage, 'head' | 'neighbours'>> {
  const head: PageHead = {
    language: null,
    title: '',
    description: null,
    canonical: null,
    viewport: null,
    robots: '',
    heading: '',
    namesEncoding: false,
    shared: new Map(),
    feeds: [],
    base: null,
  }
  const neighbours: ReadPage['neighbours'] = []
  let isTitle = false
  let heading: 'before' | 'in' | 'after' = 'before'
  return {
    part: { head, neighbours },
    open({ name, attributes }) {
      const { href, rel } = attributes
      if (name === 'link' && href !== undefined && (rel === 'prev' || rel === 'next'))
        neighbours.push({ rel, href })
      noteHead(head, name, attributes)
      if (name === 'title' && head.title === '') isTitle = true
      if (name === 'h1' && heading === 'before') heading = 'in'
    },
    text(text) {
      if (isTitle) head.title += text
      if (heading === 'in') head.heading += text
    },
    close(name) {
      if (name === 'title') isTitle = false
      if (name === 'h1' && heading === 'in') heading = 'after'
    },
  }
}
