// Structured data: the vocabulary of schema.org as its types have it, and text that cannot leave the element.
import fc from 'fast-check'
import { parseFragment, type DefaultTreeAdapterTypes } from 'parse5'
import type { BlogPosting, BreadcrumbList, Graph, WebSite, WithContext } from 'schema-dts'
import { describe, expect, it } from 'vitest'
import { describe as described, scriptElement, type Surroundings } from './structured-data.ts'

const surroundings: Surroundings = {
  blog: { title: 'Repairs', tagline: 'Mended', origin: 'https://blog.example', language: 'en-GB' },
  addressOf: (kind, slug) => (kind === 'author' ? undefined : `/${kind}/${slug}`),
}
const post = {
  title: 'Zip surgery',
  slug: 'zip-surgery',
  excerpt: 'A new zip is two hours.',
  publishedAt: new Date('2026-11-01T10:00:00Z'),
  updatedAt: new Date('2026-11-02T10:00:00Z'),
  wordCount: 300,
  author: { name: 'Wen', slug: 'wen' },
  category: { name: 'Textiles', slug: 'textiles' },
  tags: [{ name: 'zips', slug: 'zips' }],
  image: { name: 'a b.svg', width: 4, height: 3 },
}

/** Returns what the element holds, as a browser reads it. */
function inElement(html: string): unknown {
  const { childNodes } = parseFragment(html)
  const [script, ...others] = childNodes as DefaultTreeAdapterTypes.Element[]
  expect([script?.tagName, others.length, script?.childNodes.length]).toEqual(['script', 0, 1])
  return JSON.parse((script?.childNodes[0] as DefaultTreeAdapterTypes.TextNode).value)
}

describe('a post', () => {
  // The types of schema-dts 2.1.0 are generated from schema.org; the type check fails if these were none of its values.
  const posting = {
    '@type': 'BlogPosting',
    headline: 'Zip surgery',
    url: 'https://blog.example/post/zip-surgery',
    mainEntityOfPage: 'https://blog.example/post/zip-surgery',
    description: 'A new zip is two hours.',
    datePublished: '2026-11-01T10:00:00.000Z',
    dateModified: '2026-11-02T10:00:00.000Z',
    author: { '@type': 'Person', name: 'Wen' },
    image: { '@type': 'ImageObject', url: 'https://blog.example/media/a%20b.svg', width: '4', height: '3' },
    articleSection: 'Textiles',
    keywords: ['zips'],
    wordCount: 300,
    inLanguage: 'en-GB',
    isPartOf: { '@type': 'Blog', name: 'Repairs', url: 'https://blog.example/' },
  } as const satisfies BlogPosting
  const breadcrumbs = {
    '@type': 'BreadcrumbList',
    itemListElement: [
      { '@type': 'ListItem', position: 1, name: 'Repairs', item: 'https://blog.example/' },
      { '@type': 'ListItem', position: 2, name: 'Textiles', item: 'https://blog.example/category/textiles' },
      {
        '@type': 'ListItem',
        position: 3,
        name: 'Zip surgery',
        item: 'https://blog.example/post/zip-surgery',
      },
    ],
  } as const satisfies BreadcrumbList

  it('is a BlogPosting with its breadcrumbs', () => {
    const wanted = { '@context': 'https://schema.org', '@graph': [posting, breadcrumbs] } satisfies Graph
    expect(inElement(scriptElement(described(post, surroundings) ?? {}).html)).toEqual(wanted)
  })
  it('leaves out what it does not have', () => {
    const bare = { title: 'x', slug: 'x', publishedAt: null }
    const { '@graph': graph } = inElement(scriptElement(described(bare, surroundings) ?? {}).html) as {
      '@graph': Record<string, unknown>[]
    }
    expect(Object.keys(graph[0] ?? {}).toSorted()).toEqual(
      ['@type', 'headline', 'inLanguage', 'isPartOf', 'mainEntityOfPage', 'url'].toSorted(),
    )
  })
})

it('the blog is a WebSite', () => {
  const wanted = {
    '@context': 'https://schema.org',
    '@type': 'WebSite',
    name: 'Repairs',
    url: 'https://blog.example/',
    description: 'Mended',
    inLanguage: 'en-GB',
  } as const satisfies WithContext<WebSite>
  expect(described(surroundings.blog, surroundings)).toEqual(wanted)
})

it.each([[undefined], ['a text'], [[post]], [{ name: 'Textiles', slug: 'textiles' }]])(
  '%j is neither',
  (value) => {
    expect(described(value, surroundings)).toBeUndefined()
  },
)

it('text stays in the element, whatever it contains', () => {
  const hostile = fc.oneof(
    fc.string({ unit: 'binary' }),
    fc.constantFrom('</script><img src=x onerror=alert(1)>', '<!--<script>', ']]>', '\u2028', '&lt;', '"}'),
  )
  fc.assert(
    fc.property(hostile, hostile, (title, name) => {
      const { html } = scriptElement(
        described({ ...post, title, category: { name, slug: 'c' } }, surroundings) ?? {},
      )
      expect(html.slice(1, -1)).not.toMatch(/<(?!\/script$)/)
      const { '@graph': graph } = inElement(html) as { '@graph': Record<string, unknown>[] }
      // Lone surrogates are not text.
      expect(graph[0]?.['headline']).toBe(JSON.parse(JSON.stringify(title)))
      expect(graph[0]?.['articleSection']).toBe(JSON.parse(JSON.stringify(name)))
    }),
  )
})
