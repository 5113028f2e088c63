/**
 * Describes a post or the blog to search engines: JSON-LD 1.1 with the vocabulary of schema.org, in the element that pages
 * carry it in.
 */
import { SafeHtml } from './html/safe-html.ts'

export interface DescribedBlog {
  title: string
  tagline: string
  /** Scheme and host of the blog; empty if it has none, so that addresses are relative to the page. */
  origin: string
  language: string
}

/** Kinds of rows that have a page. */
export type DescribedKind = 'post' | 'category' | 'author'

export interface Surroundings {
  blog: DescribedBlog
  /** Returns the path of the page of a row; undefined if no route shows it. */
  addressOf(kind: DescribedKind, slug: string): string | undefined
}

interface Term {
  name: string
  slug: string
}

interface Post {
  title: string
  slug: string
  excerpt?: string | null
  publishedAt: Date | null
  updatedAt?: Date | null
  wordCount?: number | null
  commentCount?: number | null
  author?: Term | null
  category?: Term | null
  tags?: readonly Term[] | null
  image?: { name: string; width: number; height: number } | null
}

type Json = Record<string, unknown>

const isRow = (value: unknown): value is Record<string, unknown> =>
  typeof value === 'object' && value !== null

const isPost = (value: unknown): value is Post =>
  isRow(value) &&
  typeof value['slug'] === 'string' &&
  typeof value['title'] === 'string' &&
  'publishedAt' in value

const isBlog = (value: unknown): value is DescribedBlog =>
  isRow(value) && typeof value['origin'] === 'string' && typeof value['title'] === 'string'

/** Returns the description of a post (`BlogPosting` and `BreadcrumbList`) or the blog (`WebSite`); undefined for others. */
export function describe(value: unknown, surroundings: Surroundings): Json | undefined {
  if (isPost(value)) return { '@context': 'https://schema.org', '@graph': postGraph(value, surroundings) }
  return isBlog(value) ? { '@context': 'https://schema.org', ...webSite(surroundings.blog) } : undefined
}

const webSite = ({ title, tagline, origin, language }: DescribedBlog): Json => ({
  '@type': 'WebSite',
  name: title,
  url: `${origin}/`,
  ...(tagline === '' ? {} : { description: tagline }),
  inLanguage: language,
})

function postGraph(post: Post, { blog, addressOf }: Surroundings): Json[] {
  const { origin } = blog
  const absolute = (path: string | undefined) => (path === undefined ? undefined : `${origin}${path}`)
  const { author, category, image } = post
  const url = absolute(addressOf('post', post.slug))
  const ofCategory = category ? absolute(addressOf('category', category.slug)) : undefined
  const posting: Json = {
    '@type': 'BlogPosting',
    headline: post.title,
    url,
    mainEntityOfPage: url,
    description: post.excerpt || undefined,
    datePublished: post.publishedAt?.toISOString(),
    dateModified: post.updatedAt?.toISOString(),
    author: author
      ? { '@type': 'Person', name: author.name, url: absolute(addressOf('author', author.slug)) }
      : undefined,
    image: image
      ? {
          '@type': 'ImageObject',
          url: `${origin}/media/${encodeURIComponent(image.name)}`,
          width: String(image.width),
          height: String(image.height),
        }
      : undefined,
    articleSection: category?.name,
    keywords: post.tags?.length ? post.tags.map((one) => one.name) : undefined,
    wordCount: post.wordCount ?? undefined,
    commentCount: post.commentCount ?? undefined,
    inLanguage: blog.language,
    isPartOf: { '@type': 'Blog', name: blog.title, url: `${origin}/` },
  }
  const trail: { name: string; item: string | undefined }[] = [
    { name: blog.title, item: `${origin}/` },
    ...(category && ofCategory !== undefined ? [{ name: category.name, item: ofCategory }] : []),
    { name: post.title, item: url },
  ]
  return [
    posting,
    {
      '@type': 'BreadcrumbList',
      itemListElement: trail.map((one, index) => ({ '@type': 'ListItem', position: index + 1, ...one })),
    },
  ]
}

/** Characters that could end the element, or begin a comment or another script in it (HTML, section 4.12.1.3). */
const UNSAFE = /[<>&\u2028\u2029]/g

/** Returns the element with a description. Absent values are left out. */
export const scriptElement = (description: Json): SafeHtml =>
  new SafeHtml(
    `<script type="application/ld+json">${JSON.stringify(description).replace(
      UNSAFE,
      (one) => `\\u${one.charCodeAt(0).toString(16).padStart(4, '0')}`,
    )}</script>`,
  )
